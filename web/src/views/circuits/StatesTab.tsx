// State board: what the meter should say at every point in every state, and what is dead.
import { Download } from "lucide-react";
import { fileUrl } from "../../api/client";
import { volts } from "../../parts/format";
import { usePlan } from "../../parts/plan";

export function StatesTab() {
  const { envelope, stateId, goTo } = usePlan();
  const { nodes, summary } = envelope.report;
  return (
    <section aria-label="State board">
      <p className="mb-2 text-soft">Volts between each point and its negative. Dead: no battery reaches it in that state.</p>
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
            {nodes.map((node) => (
              <tr key={node.id} className="border-t border-line">
                <th scope="row" className="px-1.5 text-left font-normal">
                  <button type="button" className="min-h-11 text-left hover:underline" onClick={() => goTo(node.part)}>
                    <span className="font-mono text-sm text-soft">{node.tag}</span> {node.label}
                  </button>
                </th>
                {node.voltage_v.map((value, index) => (
                  <td key={index} className={`px-1.5 py-1 text-right font-mono whitespace-nowrap ${value === null ? "bg-zinc text-soft" : ""}`}>
                    {value === null ? "dead" : volts(value)}
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
