// Where a reading is taken, on the map and on the roof-off plan.
import { Picture } from "./Picture";
import { usePlan } from "./plan";
import { OneOf } from "./OneOf";
import { useState } from "react";

export function WhereProbes({ run, part, red, black }: { run: string; part: string; red: string; black: string }) {
  const { envelope } = usePlan();
  const [shown, setShown] = useState<"map" | "layout">("map");
  const place = (envelope.plan.parts ?? []).find((one) => one.id === part)?.place ?? null;
  const laid = envelope.report.runs.some((one) => one.id === run);
  return (
    <div className="space-y-2 py-2">
      <p className="text-sm">
        <b className="font-semibold">Red</b> {red}
        {black !== "" && (
          <>
            {" · "}
            <b className="font-semibold">Black</b> {black}
          </>
        )}
      </p>
      <OneOf label="Where it is shown" value={shown} options={[["map", "On the map"], ["layout", "On the plan of the vehicle"]]} onChange={setShown} />
      <Picture kind={shown} subject={shown === "layout" && laid ? run : null} chosen={shown === "map" ? (run !== "" ? run : part) : place} />
    </div>
  );
}
