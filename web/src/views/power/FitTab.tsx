// Battery limit, inverter, cable, fuse and terminal in one table, at lasting power and at surge, by both schools.
import { useQuery } from "@tanstack/react-query";
import { Figure } from "../../parts/Figure";
import { amps, number, watts } from "../../parts/format";
import { usePlan } from "../../parts/plan";
import { headsOf, WideTable } from "../../parts/WideTable";
import { powerQuery, type Power } from "./queries";

type Cell = Power["fit"][number]["cells"][number];

const SCHOOL: Record<string, string> = { efficiency: "by efficiency at the lowest volts", ten_to_one: "ten watts to the ampere" };
const SHAPE: Record<string, string> = { holds: "✓", fails: "▲", unknown: "?" };
const COLOUR: Record<string, string> = { holds: "text-good", fails: "text-stop", unknown: "text-soft" };

function Holds({ cell }: { cell: Cell | undefined }) {
  if (cell === undefined) return <td className="px-1.5 text-soft">not wired</td>;
  const limit = cell.limit === null ? "not known" : cell.unit === "A" ? amps(cell.limit) : `${number(cell.limit, 0)} ${cell.unit}`;
  return (
    <td className="px-1.5 py-1 align-top">
      <span className={`font-semibold ${COLOUR[cell.holds]}`}>
        <span aria-hidden>{SHAPE[cell.holds]}</span> {cell.holds}
      </span>{" "}
      <span className="font-mono whitespace-nowrap">{limit}</span>
      <span className="block text-xs text-soft">{cell.note}</span>
    </td>
  );
}

export function FitTab() {
  const { envelope } = usePlan();
  const { data: power, error } = useQuery(powerQuery(envelope.plan_id, envelope.revision));
  if (error) return <p role="alert">{error.message}</p>;
  if (power === undefined) return <p className="text-soft">Looking at every limit</p>;
  return (
    <section aria-label="Fit" className="space-y-3">
      <p className="text-soft">
        What an inverter asks against what battery, cable, fuse and terminal stand. The battery has to give what the other loads take besides. The bold row is the school of the practice set.
      </p>
      {power.fit.length === 0 ? (
        <p className="border border-dashed border-line bg-sheet p-8 text-center">No inverter with stated ratings. Open one under Circuits and state what it is made for.</p>
      ) : (
        <WideTable label="Fit" heads={headsOf("Inverter", "Power", "School", "Asks", "Battery", "Cable", "Fuse", "Terminal")}>
          {power.fit.map((row) => (
            <tr key={`${row.inverter} ${row.mode} ${row.school}`} className="border-t border-line">
              <th scope="row" className={`px-1.5 py-2 text-left align-top ${row.chosen_school ? "font-bold" : "font-normal"}`}>
                {row.name}
              </th>
              <td className="px-1.5 py-1 align-top whitespace-nowrap">
                {watts(row.ac_w)} <span className="block text-xs text-soft">{row.mode === "surge" ? "surge" : "continuous"}</span>
              </td>
              <td className="px-1.5 py-1 align-top text-sm">{SCHOOL[row.school]}</td>
              <td className="px-1.5 align-top font-mono whitespace-nowrap">
                <Figure workingKey={`${row.inverter}.fit_${row.mode}_${row.school}`} text={amps(row.current_a)} label={`${row.name}, current`} />
                <span className="block px-1.5 text-xs text-soft">and {amps(row.others_a)}</span>
              </td>
              {["battery", "cable", "fuse", "terminal"].map((what) => (
                <Holds key={what} cell={row.cells.find((cell) => cell.what === what)} />
              ))}
            </tr>
          ))}
        </WideTable>
      )}
      <p className="border-l-4 border-line bg-zinc p-2 text-sm">{power.caution}</p>
    </section>
  );
}
