// Drawings to wire from: both legs sheet by sheet, and of each part what lands on which terminal.
import { useQuery } from "@tanstack/react-query";
import { Printer } from "lucide-react";
import { useSearchParams } from "react-router";
import { fileUrl } from "../../api/client";
import { Choice } from "../../parts/Labelled";
import { OneOf } from "../../parts/OneOf";
import { Picture } from "../../parts/Picture";
import { usePlan } from "../../parts/plan";
import { wiringQuery } from "./queries";

const KINDS = [
  ["wiring", "Sheets"],
  ["connections", "Part by part"],
] as const;

export function WiringTab() {
  const { envelope } = usePlan();
  const { data: names } = useQuery(wiringQuery(envelope.plan_id, envelope.revision));
  const [search, setSearch] = useSearchParams();
  if ((envelope.plan.parts ?? []).length === 0) return <p className="border border-line bg-sheet p-3">No part yet, so nothing to wire.</p>;
  if (!names) return <p className="text-soft">Drawing</p>;
  const kind = search.get("of") === "connections" ? "connections" : "wiring";
  const choices = (kind === "wiring" ? names.sheets : names.parts).map((one) => [one.id, one.name] as const);
  const asked = search.get("at");
  const at = choices.some(([id]) => id === asked) ? (asked ?? "") : (choices[0]?.[0] ?? "");
  const put = (of: string, next: string | null) => {
    setSearch((before) => {
      const after = new URLSearchParams(before);
      after.set("of", of);
      if (next === null) after.delete("at");
      else after.set("at", next);
      return after;
    });
    return true;
  };
  return (
    <div className="space-y-3">
      <div className="flex flex-wrap items-end gap-3">
        <OneOf label="Which drawings" value={kind} options={KINDS} onChange={(of) => put(of, null)} />
        <div className="w-72">
          <Choice label={kind === "wiring" ? "Sheet" : "Part or holder"} value={at} options={choices} onChange={(next) => put(kind, next)} />
        </div>
        {(["a4", "a3", "letter"] as const).map((paper) => (
          <a key={paper} href={fileUrl(envelope.plan_id, "wiring.pdf", `?paper=${paper}`)} target="_blank" rel="noreferrer" className="inline-flex min-h-11 items-center gap-2 border border-line bg-sheet px-3 font-medium hover:bg-zinc">
            <Printer size={18} aria-hidden /> All, {paper === "letter" ? "Letter" : paper.toUpperCase()}
          </a>
        ))}
      </div>
      <Picture key={`${kind} ${at}`} kind={kind} subject={at} />
    </div>
  );
}
