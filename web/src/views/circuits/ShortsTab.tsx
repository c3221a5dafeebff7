// Every short that can happen: how much flows, what opens and when, what the wire reaches by then.
import { useQuery } from "@tanstack/react-query";
import { Download } from "lucide-react";
import { useState } from "react";
import { fileUrl, type FaultReport } from "../../api/client";
import { shortsQuery } from "../../api/plans";
import { opening, selectivity } from "../../parts/faults";
import { celsius, wholeAmps } from "../../parts/format";
import { LABELS } from "../../parts/labels";
import { usePlan } from "../../parts/plan";
import { Select } from "../../parts/Select";
import { Sleeve } from "../../parts/Sleeve";
import { headsOf, WideTable } from "../../parts/WideTable";

const NAMES = LABELS.quantities;
const KINDS = [
  ["runs", "along the runs"],
  ["points", "at the points"],
  ["bad", "that harm or are not cleared"],
  ["body", "to the body"],
] as const;

type Row = { key: string; subject: string; tag: string; name: string; run: boolean; fault: FaultReport };

export function ShortsTab() {
  const { envelope, stateId, goTo } = usePlan();
  const [only, setOnly] = useState("runs");
  const { report } = envelope;
  const colour = envelope.plan.wire_colours?.positive ?? "red";
  const toBody = only === "body";
  const own = useQuery({ ...shortsQuery(envelope.plan_id, envelope.revision, stateId, toBody ? "body" : "negative"), enabled: stateId !== null || toBody });
  const state = report.summary.states.find((one) => one.state_id === stateId);
  // With a state chosen its own shorts are asked for; the report has those with every contact closed.
  const inState = stateId === null && !toBody ? null : own.data;
  const runs: Row[] = report.runs.flatMap((run) =>
    (inState === null ? run.faults : (inState?.runs[run.id] ?? [])).map((fault) => ({ key: `${run.id}-${fault.where}`, subject: run.id, tag: run.tag, name: run.name || run.finish_label, run: true, fault })),
  );
  const points: Row[] = report.nodes.flatMap((node) => {
    const fault = inState === null ? node.fault : inState?.points[node.id];
    return fault ? [{ key: node.id, subject: node.part, tag: node.tag, name: node.label, run: false, fault }] : [];
  });
  const hot = (row: Row) => row.fault.slow_s === null || (row.fault.wire_c ?? 0) > (row.fault.limit_c ?? Infinity);
  const shown = only === "points" ? points : only === "bad" ? runs.filter(hot) : runs;
  return (
    <section aria-label="Short circuits">
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <p className="grow text-soft">
          A bolted short at every point and along every run, {state ? `with the contacts of ${state.name}` : "with every contact closed"}. Strongest: cold copper, full battery. Weakest: warm copper, half charge;
          what opens and what the wire reaches is for the weakest.
        </p>
        <Select label="Show shorts" className="field max-w-72" value={only} options={KINDS} onChange={setOnly} />
        <a className="inline-flex min-h-11 items-center gap-1 text-sm underline" href={fileUrl(envelope.plan_id, "faults.csv")} download>
          <Download size={16} aria-hidden /> CSV
        </a>
      </div>
      {own.isLoading && <p className="text-soft">Computing these shorts</p>}
      {toBody && own.data && (
        <div className="mb-2 space-y-1">
          {own.data.reason !== "" && <p>{own.data.reason}</p>}
          {own.data.bonds.map((bond) => (
            <p key={bond.run_id} className={bond.reached_c === null || bond.reached_c > bond.limit_c ? "font-semibold text-stop" : ""}>
              Bond <span className="font-mono">{bond.tag}</span>: {bond.reached_c === null ? `nothing opens a short of ${bond.by}, and it all comes back by the bond` : `reaches ${celsius(bond.reached_c)} at most, in a short of ${bond.by}`}; it stands{" "}
              {celsius(bond.limit_c)}.
            </p>
          ))}
        </div>
      )}
      {!own.isLoading && shown.length === 0 && !(toBody && own.data?.reason) && <p className="border border-dashed border-line bg-sheet p-8 text-center">None of this kind.</p>}
      {shown.length > 0 && (
        <WideTable label="Short circuits" heads={headsOf(NAMES.subject, NAMES.where, NAMES.strongest_a, NAMES.weakest_a, NAMES.opens, NAMES.selective, NAMES.wire_c)}>
          {shown.map((row) => (
            <tr key={row.key} className="border-t border-line">
              <th scope="row" className="px-1.5 text-left font-normal">
                <button type="button" className="flex min-h-11 items-center gap-2 text-left hover:underline" onClick={() => goTo(row.subject)}>
                  {row.run ? <Sleeve tag={row.tag} colour={colour} /> : <span className="font-mono text-sm text-soft">{row.tag}</span>} {row.name}
                </button>
              </th>
              <td className="px-1.5">{row.fault.where}</td>
              <td className="px-1.5 text-right font-mono whitespace-nowrap">{wholeAmps(row.fault.strongest_a)}</td>
              <td className="px-1.5 text-right font-mono whitespace-nowrap">{wholeAmps(row.fault.weakest_a)}</td>
              <td className={`px-1.5 ${row.fault.slow_s === null ? "font-semibold text-stop" : ""}`}>{opening(row.fault)}</td>
              <td className="px-1.5 text-sm">{selectivity(row.fault)}</td>
              <td className={`px-1.5 text-right whitespace-nowrap ${row.fault.limit_c !== null && (row.fault.wire_c ?? 0) > row.fault.limit_c ? "font-semibold text-stop" : ""}`}>
                {row.fault.wire_c === null ? "–" : celsius(row.fault.wire_c)}
                {row.fault.limit_c !== null && <span className="block text-xs text-soft">stands {celsius(row.fault.limit_c)}</span>}
              </td>
            </tr>
          ))}
        </WideTable>
      )}
    </section>
  );
}
