// Bank, chargers, alternator and what the loads take in a day; each opens to its fields or its working.
import { useQuery } from "@tanstack/react-query";
import { BatteryCharging, Plus } from "lucide-react";
import { useState } from "react";
import { Button } from "../../parts/Button";
import { Figure } from "../../parts/Figure";
import { amps, chargeADay, daysLong, kilograms, milliohms, money, number, percent, volts, wattHours, watts, wholeAmps } from "../../parts/format";
import { FindingsHere } from "../../parts/Mends";
import { usePlan } from "../../parts/plan";
import { isSource } from "../../parts/sources";
import { headsOf, WideTable } from "../../parts/WideTable";
import { AddCharger } from "./AddCharger";
import { MakeBank } from "./MakeBank";
import { powerQuery, type Power } from "./queries";

const CHEMISTRY: Record<string, string> = { lfp: "lithium", agm: "AGM", gel: "gel", flooded: "flooded" };
const FORM: Record<string, string> = { dcdc: "from the engine", sun: "from panels", shore: "from shore" };

function Bank({ power }: { power: Power }) {
  const { goTo } = usePlan();
  const { bank } = power;
  return (
    <section aria-labelledby="bank-title" className="space-y-2">
      <h3 id="bank-title" className="text-lg font-bold">
        Bank
        {bank && (
          <span className="ml-3 text-base font-normal text-soft">
            {number(bank.nominal_v, 0)} V · {number(bank.capacity_ah, 0)} Ah, {number(bank.usable_ah, 0)} planned for · {wattHours(bank.energy_wh)} ·{" "}
            {bank.strings > 1 || bank.series > 1 ? `${bank.series} in series × ${bank.strings} side by side · ` : ""}
            {kilograms(bank.mass_kg)} · at most {amps(bank.worst_a)}
          </span>
        )}
      </h3>
      <WideTable label="Batteries" heads={headsOf("Battery", "Chemistry", "Capacity", "Load, worst state", "Continuous", "Short-time", "Max charge", "Internal R", "Short-circuit", "Mass")}>
        {power.batteries.map((one) => (
          <tr key={one.id} className="border-t border-line">
            <th scope="row" className="px-1.5 text-left font-normal">
              <button type="button" className="flex min-h-11 items-center gap-2 text-left hover:underline" onClick={() => goTo(one.id)}>
                <span className="font-mono text-sm text-soft">{one.tag}</span> {one.name}
              </button>
            </th>
            <td className="px-1.5">{CHEMISTRY[one.chemistry]}{one.use === "starter" ? ", starter" : ""}</td>
            <td className="px-1.5 text-right font-mono whitespace-nowrap">{number(one.capacity_ah, 0)} Ah</td>
            <td className="px-1.5 text-right font-mono whitespace-nowrap">
              {one.current_a === null ? "–" : <Figure workingKey={`${one.id}.share`} text={amps(one.current_a)} label={`${one.name}, what it gives`} />}
              {one.of_even !== null && (bank?.strings ?? 1) > 1 && <span className="block text-xs text-soft">{percent(one.of_even, 0)} of even</span>}
            </td>
            <td className="px-1.5 text-right font-mono whitespace-nowrap">{amps(one.discharge_a)}</td>
            <td className="px-1.5 text-right font-mono whitespace-nowrap">{amps(one.discharge_short_a)}</td>
            <td className="px-1.5 text-right font-mono whitespace-nowrap">{amps(one.charge_a)}</td>
            <td className="px-1.5 text-right font-mono whitespace-nowrap">{milliohms(one.resistance_ohm)}</td>
            <td className="px-1.5 text-right font-mono whitespace-nowrap">{wholeAmps(one.short_circuit_a)}</td>
            <td className="px-1.5 text-right font-mono whitespace-nowrap">{kilograms(one.mass_kg)}</td>
          </tr>
        ))}
      </WideTable>
      {power.batteries.length === 0 && <p className="border border-dashed border-line bg-sheet p-6 text-center">No battery yet.</p>}
    </section>
  );
}

function Chargers({ power }: { power: Power }) {
  const { goTo } = usePlan();
  const { engine } = power;
  return (
    <section aria-labelledby="chargers-title" className="space-y-2">
      <h3 id="chargers-title" className="text-lg font-bold">
        Charging
        {engine && (
          <span className="ml-3 text-base font-normal text-soft">
            {engine.name} {amps(engine.rated_a)}, {engine.regulation}: {amps(engine.spare_a)} left hot and at idle, {amps(engine.taken_a)} taken
            {engine.link_a > 0.05 && ` · a plain link passes ${amps(engine.link_a)}`}
          </span>
        )}
      </h3>
      {power.chargers.length === 0 ? (
        <p className="border border-dashed border-line bg-sheet p-6 text-center">Nothing charges yet. Add a charger, or let one be proposed.</p>
      ) : (
        <WideTable label="Chargers" heads={headsOf("Charger", "Fed", "Rated", "Delivers (as wired)", "Input", "Power", "Panels", "Voc, coldest morning")}>
          {power.chargers.map((one) => (
            <tr key={one.id} className="border-t border-line">
              <th scope="row" className="px-1.5 text-left font-normal">
                <button type="button" className="flex min-h-11 items-center gap-2 text-left hover:underline" onClick={() => goTo(one.id)}>
                  <span className="font-mono text-sm text-soft">{one.tag}</span> {one.name}
                </button>
              </th>
              <td className="px-1.5">{FORM[one.form]}</td>
              <td className="px-1.5 text-right font-mono whitespace-nowrap">{amps(one.rated_a)}</td>
              <td className="px-1.5 text-right font-mono whitespace-nowrap">
                {one.given_a === null ? "–" : <Figure workingKey={`${one.id}.given_a`} text={amps(one.given_a)} label={`${one.name}, what it gives`} />}
              </td>
              <td className="px-1.5 text-right font-mono whitespace-nowrap">
                {one.input_v === null ? "–" : `${volts(one.input_v)} · ${amps(one.input_a)}`}
              </td>
              <td className="px-1.5 text-right font-mono whitespace-nowrap">
                {one.power_in_w === null ? "–" : `${watts(one.power_in_w)} → ${watts(one.power_out_w)}`}
              </td>
              <td className="px-1.5 text-right font-mono whitespace-nowrap">
                {one.panels === null ? "–" : `${watts(one.panels.power_w)}${one.pv_w === null ? "" : ` of ${watts(one.pv_w)}`}`}
              </td>
              <td className="px-1.5 text-right font-mono whitespace-nowrap">
                {one.panels === null ? (
                  "–"
                ) : (
                  <>
                    <Figure workingKey={`${one.id}.cold_open_v`} text={volts(one.panels.cold_open_v)} label={`${one.name}, open-circuit volts`} /> of {number(one.pv_high_v ?? 0, 0)} V
                    {one.panels.typical && <span className="block text-xs text-soft">typical coefficient</span>}
                  </>
                )}
              </td>
            </tr>
          ))}
        </WideTable>
      )}
    </section>
  );
}

function Usage({ power }: { power: Power }) {
  const { envelope } = usePlan();
  const states = (envelope.plan.states ?? []).filter((one) => power.by_state_ah[one.id] !== undefined);
  const uses = [...power.uses].sort((one, other) => (one.ah < other.ah ? 1 : -1));
  return (
    <section aria-labelledby="usage-title" className="space-y-2">
      <h3 id="usage-title" className="text-lg font-bold">
        A day at the bank{" "}
        <span className="ml-2 text-base font-normal text-soft">
          <Figure workingKey="energy.ah_per_day" text={chargeADay(power.ah_per_day)} label="Charge a day at the bank" /> · {wattHours(power.wh_per_day)}, wire losses, inverter losses and standby
          included
        </span>
      </h3>
      <WideTable label="Usage" heads={headsOf("Load", "A day", ...states.map((one) => one.name), "Of its hours on", "Wires lose")}>
        {uses.map((one) => (
          <tr key={`${one.load} ${one.name}`} className="border-t border-line">
            <th scope="row" className="h-10 px-1.5 text-left font-normal">
              {one.name}
              {one.hours_short > 0.05 && <span className="block text-xs text-fix">asks for more hours than its states give</span>}
            </th>
            <td className="px-1.5 text-right font-mono">{chargeADay(one.ah)}</td>
            {states.map((state) => (
              <td key={state.id} className="px-1.5 text-right font-mono">{one.by_state_ah[state.id] === undefined ? "–" : chargeADay(one.by_state_ah[state.id])}</td>
            ))}
            <td className="px-1.5 text-right font-mono">{percent(one.duty, 0)}</td>
            <td className="px-1.5 text-right font-mono">{percent(one.loss_frac)}</td>
          </tr>
        ))}
      </WideTable>
      {uses.length === 0 && <p className="border border-dashed border-line bg-sheet p-6 text-center">No load has hours yet.</p>}
    </section>
  );
}

function Sizes({ power }: { power: Power }) {
  return (
    <section aria-labelledby="sizes-title" className="space-y-2">
      <h3 id="sizes-title" className="text-lg font-bold">
        Bank for {daysLong(power.days)} by chemistry
      </h3>
      <WideTable label="Bank sizes" heads={headsOf("Chemistry", "Usable", "Capacity", "Mass", "Cost")}>
        {power.sizes.map((one) => (
          <tr key={one.chemistry} className="border-t border-line">
            <th scope="row" className="h-10 px-1.5 text-left font-normal">{one.label}</th>
            <td className="px-1.5 text-right font-mono">{percent(one.usable_frac, 0)}</td>
            <td className="px-1.5 text-right font-mono">
              <Figure workingKey={`energy.bank_${one.chemistry}`} text={`${number(one.needed_ah, 0)} Ah`} label={`${one.label}, bank`} />
            </td>
            <td className="px-1.5 text-right font-mono">{kilograms(one.mass_kg)}</td>
            <td className="px-1.5 text-right font-mono">{money(one.cost)}</td>
          </tr>
        ))}
      </WideTable>
    </section>
  );
}

export function SourcesTab() {
  const { envelope } = usePlan();
  const { data: power, error } = useQuery(powerQuery(envelope.plan_id, envelope.revision));
  const [adding, setAdding] = useState<"charger" | "bank" | null>(null);
  const sources = new Set((envelope.plan.parts ?? []).filter(isSource).map((one) => one.id));
  const findings = envelope.report.findings.filter((one) => one.waived === null && sources.has(one.subject));
  if (error) return <p role="alert">{error.message}</p>;
  if (power === undefined) return <p className="text-soft">Solving what charges</p>;
  return (
    <div className="space-y-6">
      <div className="flex flex-wrap gap-2">
        <Button look="main" onClick={() => setAdding("charger")}>
          <Plus size={18} /> Add a charger
        </Button>
        <Button onClick={() => setAdding("bank")} disabled={power.batteries.length === 0}>
          <BatteryCharging size={18} /> Make a bank
        </Button>
      </div>
      <FindingsHere findings={findings} />
      <Bank power={power} />
      <Chargers power={power} />
      <Sizes power={power} />
      <Usage power={power} />
      <p className="border-l-4 border-line bg-zinc p-2 text-sm">{power.caution}</p>
      <AddCharger key={adding === "charger" ? "open" : "shut"} open={adding === "charger"} onClose={() => setAdding(null)} />
      <MakeBank key={adding === "bank" ? "bank" : "none"} open={adding === "bank"} onClose={() => setAdding(null)} />
    </div>
  );
}
