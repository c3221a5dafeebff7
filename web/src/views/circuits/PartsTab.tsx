// The distribution as a tree: who feeds whom, what passes, what it is rated. A part opens to its sheet.
import { useState } from "react";
import { Link } from "react-router";
import type { Part } from "../../api/client";
import { Button } from "../../parts/Button";
import { amps } from "../../parts/format";
import { usePlan } from "../../parts/plan";
import { Sleeve } from "../../parts/Sleeve";
import { Verdict, type Grade } from "../../parts/Verdict";
import { KIND } from "../../parts/kinds";
import { headsOf, WideTable } from "../../parts/WideTable";
import { ShareForm } from "./ShareForm";

type Line = { part: Part; depth: number; run: string | null };

// Depth first from the batteries; what nothing feeds comes last.
function tree(parts: Part[], runs: { id: string; legs?: string; start: { part: string }; finish: { part: string } }[]): Line[] {
  const lines: Line[] = [];
  const seen = new Set<string>();
  const walk = (id: string, depth: number, run: string | null) => {
    const part = parts.find((one) => one.id === id);
    if (part === undefined || seen.has(id)) return;
    seen.add(id);
    lines.push({ part, depth, run });
    for (const one of runs) if (one.start.part === id && one.legs !== "negative") walk(one.finish.part, depth + 1, one.id);
  };
  for (const part of parts) if (part.kind === "battery") walk(part.id, 0, null);
  for (const part of parts) walk(part.id, 0, null);
  return lines;
}

export function PartsTab() {
  const { envelope, goTo } = usePlan();
  const [sharing, setSharing] = useState(false);
  const { plan, report } = envelope;
  const lines = tree(plan.parts ?? [], plan.runs ?? []);
  const colour = plan.wire_colours?.positive ?? "red";
  const figures = new Map(report.parts.map((one) => [one.id, one]));
  const loads = new Map(report.loads.map((one) => [one.id, one]));
  const tags = new Map(report.runs.map((one) => [one.id, one.tag]));
  return (
    <section aria-label="Parts">
      <div className="mb-2 flex flex-wrap items-center gap-2">
        <p className="grow text-soft">Open a part to set its ratings, to feed another from it or to remove it.</p>
        <Button onClick={() => setSharing(true)}>Make loads share a feeder</Button>
        <Link to="/parts" className="inline-flex min-h-11 items-center px-3 underline">
          Library
        </Link>
      </div>
      {lines.length === 0 && <p className="border border-dashed border-line bg-sheet p-8 text-center">No parts yet.</p>}
      <WideTable label="Parts" heads={headsOf("Part", "Kind", "Fed by", "Passes", "Rated", "Guarded by", "Verdict")}>
        {lines.map(({ part, depth, run }) => {
          const shown = figures.get(part.id);
          const load = loads.get(part.id);
          return (
            <tr key={part.id} className="border-t border-line hover:bg-zinc">
              <th scope="row" className="px-1.5 text-left font-normal" style={{ paddingLeft: `${6 + depth * 18}px` }}>
                <button type="button" className="min-h-11 text-left hover:underline" onClick={() => goTo(part.id)}>
                  <span className="font-mono text-sm text-soft">{part.tag}</span> <span className={part.kind === "load" ? "" : "font-semibold"}>{part.name}</span>
                </button>
              </th>
              <td className="px-1.5 text-sm">{KIND[part.kind] ?? part.kind}</td>
              <td className="px-1.5">
                {run !== null && (
                  <button type="button" className="min-h-9" aria-label={`Open run ${tags.get(run) ?? ""}`} onClick={() => goTo(run)}>
                    <Sleeve tag={tags.get(run) ?? ""} colour={colour} />
                  </button>
                )}
              </td>
              <td className="px-1.5 text-right font-mono whitespace-nowrap">{amps(load ? load.design_current_a : part.kind === "battery" ? null : shown?.through_a)}</td>
              <td className="px-1.5 text-right font-mono whitespace-nowrap">{amps(shown?.rated_a)}</td>
              <td className="px-1.5 text-sm whitespace-nowrap">{shown?.guarded_by ? `${amps(shown.guard_a)} in ${shown.guarded_by}` : ""}</td>
              <td className="px-1.5">
                <Verdict grade={(shown?.verdict ?? load?.verdict ?? "good") as Grade} />
              </td>
            </tr>
          );
        })}
      </WideTable>
      <ShareForm key={String(sharing)} open={sharing} onClose={() => setSharing(false)} />
    </section>
  );
}
