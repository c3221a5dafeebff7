// A wire somebody else has pulled: which size it may be by its strands or its outside, pinned with the doubt as its reason.
import { useMutation } from "@tanstack/react-query";
import { FileDown } from "lucide-react";
import { useState } from "react";
import { answered, client } from "../../api/client";
import { Button } from "../../parts/Button";
import { percent } from "../../parts/format";
import { NumberField } from "../../parts/NumberField";
import { OneOf } from "../../parts/OneOf";
import { Select } from "../../parts/Select";
import { usePlan } from "../../parts/plan";
import { runText } from "../../parts/runs";

type Typed = number | null;
type System = "mm2" | "awg";

const SYSTEMS = [
  ["mm2", "mm²"],
  ["awg", "AWG"],
] as const;

const shown = (value: Typed, words: string) => (value === null ? [] : [words.replace("#", String(value))]);

export function AsFound() {
  const { envelope, edit } = usePlan();
  const [system, setSystem] = useState<System>("mm2");
  const [strands, setStrands] = useState<Typed>(null);
  const [strand, setStrand] = useState<Typed>(null);
  const [outside, setOutside] = useState<Typed>(null);
  const [run, setRun] = useState("");
  const ask = useMutation({
    mutationFn: () => answered(client.POST("/api/identify-wire", { body: { system, strands, strand_mm: strand, outside_mm: outside } })),
  });
  const number = (set: (value: Typed) => void) => (value: number | string | null) => set(typeof value === "number" ? value : null);
  const found = ask.data;
  const seen = [...shown(strands, "# strands"), ...shown(strand, "of # mm"), ...shown(outside, "outside # mm")].join(", ");
  return (
    <>
      <p className="text-sm text-soft">What is read on the wire wins. Without print: count the strands and measure one, or measure over the insulation, which says less.</p>
      <OneOf label="Sizes" value={system} options={SYSTEMS} onChange={setSystem} />
      <div className="grid grid-cols-3 gap-2">
        <NumberField label="Strands" value={strands} onCommit={number(setStrands)} />
        <NumberField label="One strand, mm" value={strand} onCommit={number(setStrand)} />
        <NumberField label="Outside, mm" value={outside} onCommit={number(setOutside)} />
      </div>
      <Button disabled={(strands === null || strand === null) && outside === null} onClick={() => ask.mutate()}>
        Which size is it
      </Button>
      {ask.error && (
        <p role="alert" className="border-l-4 border-stop bg-stop-wash p-2">
          {ask.error.message}
        </p>
      )}
      {found !== undefined && (
        <div role="status" className="space-y-2 border-t border-line pt-2">
          <p className="font-semibold">{found.doubt}</p>
          <ul aria-label="Sizes it may be">
            {found.guesses.map((one) => (
              <li key={one.size} className="flex gap-3">
                <span className="w-14 text-right font-mono">{percent(one.share, 0)}</span> {one.label}
              </li>
            ))}
          </ul>
          {found.reckon_with !== "" && (
            <div className="flex flex-wrap items-end gap-2">
              <div className="w-60">
                <Select label="Of which run" value={run} options={[["", "Of which run"], ...envelope.report.runs.map((one) => [one.id, runText(one)] as const)]} onChange={setRun} />
              </div>
              <Button
                disabled={run === ""}
                onClick={() => void edit([{ op: "pin_wire", run, size: `${found.reckon_with} ${system === "mm2" ? "mm2" : "AWG"}`, reason: `as found: ${seen}. ${found.doubt}`.slice(0, 400) }])}
              >
                Pin it as found
              </Button>
            </div>
          )}
        </div>
      )}
      <a href={`/api/plans/${envelope.plan_id}/findings.pdf`} target="_blank" rel="noreferrer" className="inline-flex min-h-11 items-center gap-2 border border-line px-3 font-medium hover:bg-zinc">
        <FileDown size={18} aria-hidden /> Report on what was found, with photos
      </a>
    </>
  );
}
