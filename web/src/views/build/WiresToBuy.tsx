// How to buy the wire: whole spools or by the metre, so that it costs least and nothing is joined.
import type { Envelope, Schemas } from "../../api/client";
import { length, number, percent } from "../../parts/format";
import { usePlan } from "../../parts/plan";
import { useNarrow } from "../../parts/useNarrow";
import { headsOf, WideTable } from "../../parts/WideTable";
import { BuyCards } from "./BuyCards";

function how(bought: Schemas["Purchase"], metres_m: number, units: NonNullable<Envelope["plan"]["units"]>): string {
  const spools = new Map<number, number>();
  for (const { length_m } of bought.spools) spools.set(length_m, (spools.get(length_m) ?? 0) + 1);
  const said = [...spools].map(([length_m, count]) => `${count} ${count === 1 ? "spool" : "spools"} of ${length(length_m, units)}`);
  if (bought.shelf.length > 0) said.push(`${bought.shelf.length} ${bought.shelf.length === 1 ? "remnant" : "remnants"} from the shelf`);
  if (bought.by_the_metre.length > 0) said.push(`${length(metres_m, units)} cut off, ${bought.by_the_metre.length} ${bought.by_the_metre.length === 1 ? "piece" : "pieces"}`);
  return said.join(", ");
}

export function WiresToBuy({ wires }: { wires: Schemas["WirePurchase"][] }) {
  const { envelope } = usePlan();
  const units = envelope.plan.units ?? "metric";
  const narrow = useNarrow();
  return (
    <section aria-labelledby="wires-title" className="space-y-2">
      <h3 id="wires-title" className="text-lg font-bold">
        Wire
      </h3>
      {narrow ? (
        <BuyCards
          label="Wire to buy"
          cards={wires.map(({ wire, bought, metres }) => ({
            key: `${wire.size} ${wire.colour}`,
            group: "",
            what: `${wire.size} ${wire.colour}`,
            amount: bought.problem === "" ? number(bought.cost, 2) : "–",
            more: bought.problem === "" ? how(bought, metres, units) : bought.problem,
          }))}
        />
      ) : (
      <WideTable label="Wire to buy" heads={headsOf("Wire", "Pieces", "In all", "Longest", "Buy", "Costs", "Left on spools")}>
        {wires.map(({ wire, bought, on_one_spool, gap_frac, metres }) => (
          <tr key={`${wire.size} ${wire.colour}`} className="border-t border-line align-top">
            <td className="px-2 py-1.5 whitespace-nowrap">
              <b className="font-semibold">{wire.size}</b> {wire.colour}
            </td>
            <td className="px-2 py-1.5 font-mono">{wire.pieces}</td>
            <td className="px-2 py-1.5 font-mono whitespace-nowrap">{length(wire.total_m, units)}</td>
            <td className="px-2 py-1.5 font-mono whitespace-nowrap">{length(wire.longest_m, units)}</td>
            <td className="px-2 py-1.5">
              {bought.problem === "" ? how(bought, metres, units) : <span className="text-fix">{bought.problem}</span>}
              {gap_frac > 0.001 && <span className="block text-sm text-soft">at most {percent(gap_frac, 1)} could be saved yet</span>}
            </td>
            <td className="px-2 py-1.5 font-mono whitespace-nowrap">
              {bought.problem === "" ? number(bought.cost, 2) : "–"}
              {on_one_spool !== null && bought.problem === "" && <span className="block text-sm text-soft">{number(on_one_spool, 2)} on whole spools alone</span>}
            </td>
            <td className="px-2 py-1.5 font-mono">{[...bought.shelf, ...bought.spools].map((one) => length(one.left_m, units)).join(", ")}</td>
          </tr>
        ))}
      </WideTable>
      )}
      <p className="text-sm text-soft">
        By the workshop's price list: <span className="font-mono">spool:SIZE:METRES</span> for a spool, <span className="font-mono">wire:SIZE</span> for a metre of it. What is on the shelf first; no piece is joined.
      </p>
    </section>
  );
}
