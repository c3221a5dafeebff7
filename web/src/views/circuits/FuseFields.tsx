// What a person may say of the fuse at one end of a run besides its rating.
import type { Run, Schemas } from "../../api/client";
import { Button } from "../../parts/Button";
import { distance } from "../../parts/format";
import { Check, Choice } from "../../parts/Labelled";
import { LengthField } from "../../parts/LengthField";
import { usePlan } from "../../parts/plan";
import { FAMILY_OPTIONS } from "./fields";

type FuseDoc = Schemas["Fuse"];

export function FuseFields({ doc, end }: { doc: Run; end: "start" | "finish" }) {
  const { envelope, edit, patch } = usePlan();
  const fuse: FuseDoc | null | undefined = end === "start" ? doc.fuse_at_start : doc.fuse_at_finish;
  const way = end === "start" && doc.start.way !== null && doc.start.way !== undefined;
  const set = (field: string, value: unknown) => patch([{ op: "add", path: `/runs/id:${doc.id}/fuse_at_${end}/${field}`, value }]);
  if (!fuse)
    return (
      <Button onClick={() => void edit([{ op: "set_fuse", run: doc.id, end, present: true }])}>
        {end === "start" ? "Give this step a fuse of its own" : "Fuse the far end too"}
      </Button>
    );
  return (
    <fieldset className="space-y-3 border-t border-line pt-3">
      <legend className="text-sm font-semibold">Fuse at its {end}</legend>
      <div className="grid grid-cols-2 gap-3">
        {!way && (
          <LengthField
            short
            label={end === "start" ? "Fuse after" : "Fuse before the end"}
            value_m={fuse.distance_m ?? 0}
            hint={`${distance(fuse.distance_m ?? 0, envelope.plan.units ?? "metric")} of wire without it`}
            onCommit={(value) => set("distance_m", value)}
          />
        )}
        {!way && (
          <Choice
            label="Family"
            value={fuse.family ?? ""}
            options={[["", "by the practice set"], ...FAMILY_OPTIONS]}
            onChange={(value) => set("family", value === "" ? null : value)}
          />
        )}
        <Choice
          label="Holder"
          value={fuse.holder ?? ""}
          options={[
            ["", "usual"],
            ["open", "open"],
            ["sealed", "sealed"],
          ]}
          onChange={(value) => set("holder", value === "" ? null : value)}
        />
        <div>
          {!way && <Check label="wire to it sheathed" checked={fuse.sheathed ?? false} onChange={(on) => set("sheathed", on)} />}
          {(doc.parallel ?? 1) > 1 && <Check label="one for each conductor" checked={fuse.each ?? false} onChange={(on) => set("each", on)} />}
        </div>
      </div>
      {!way && <Button onClick={() => void edit([{ op: "set_fuse", run: doc.id, end, present: false }])}>Remove this fuse</Button>}
    </fieldset>
  );
}
