// State board: what the meter should say at every point in every state, and what is dead.
import { useQuery } from "@tanstack/react-query";
import { Download } from "lucide-react";
import { fileUrl } from "../../api/client";
import { boardQuery } from "../../api/prove";
import { usePlan } from "../../parts/plan";

export function StatesTab() {
  const { envelope, stateId, goTo } = usePlan();
  const { summary } = envelope.report;
  const { data: rows, error } = useQuery(boardQuery(envelope.plan_id, envelope.revision));
  if (error) return <p role="alert">{error.message}</p>;
  if (rows === undefined) return <p className="text-soft">Reckoning every reading</p>;
  return (
    <section aria-label="State board">
      <p className="mb-2 text-soft">What a meter reads between each point and its negative, batteries at their own volts, and from where to where it may lie. Live: no battery reaches it, but a charger or panels hold it. Dead: nothing reaches it in that state; a meter may show ghost volts there, a lamp shows none.</p>
      <div className="relative overflow-x-auto border border-line bg-sheet" tabIndex={0} role="region" aria-label="State board, scrolls sideways">
        <table className="w-full border-collapse">
          <caption className="sr-only">Voltage to expect at every point in every state</caption>
          <thead className="bg-zinc">
            <tr>
              <th scope="col" className="head">
                Point
              </th>
              {summary.states.map((state) => (
                <th key={state.state_id} scope="col" className={`head text-right ${state.state_id === stateId ? "text-ink underline decoration-copper decoration-4" : ""}`}>
                  {state.name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((node) => (
              <tr key={node.id} className="border-t border-line">
                <th scope="row" className="px-1.5 text-left font-normal">
                  <button type="button" className="min-h-11 text-left hover:underline" onClick={() => goTo(node.part)}>
                    <span className="font-mono text-sm text-soft">{node.tag}</span> {node.label}
                  </button>
                </th>
                {node.cells.map((cell, index) => (
                  <td key={index} title={cell.live_from.length > 0 ? `From ${cell.live_from.join(" and ")}` : undefined} className={`px-1.5 py-1 text-right font-mono ${cell.value_v === null ? "" : "whitespace-nowrap"} ${cell.live_from.length === 0 ? "bg-zinc text-soft" : ""}`}>
                    {cell.value_v === null ? cell.text : `${cell.text} V`}
                    {cell.band !== "" && <span className="block text-xs text-soft">{cell.band}</span>}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="mt-2 flex gap-4 text-sm">
        <a className="inline-flex min-h-11 items-center gap-1 underline" href={fileUrl(envelope.plan_id, "board.svg")} download>
          <Download size={16} aria-hidden /> SVG
        </a>
        <a className="inline-flex min-h-11 items-center gap-1 underline" href={fileUrl(envelope.plan_id, "states.csv")} download>
          <Download size={16} aria-hidden /> CSV
        </a>
      </p>
    </section>
  );
}
