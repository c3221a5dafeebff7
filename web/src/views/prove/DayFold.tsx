// The day readings are taken on: volts of batteries just now and the sky. Bands are those of that day then.
import type { Schemas } from "../../api/client";
import type { Day } from "../../api/prove";
import { Button } from "../../parts/Button";
import { Fold } from "../../parts/Fold";
import { NumberField } from "../../parts/NumberField";
import { OneOf } from "../../parts/OneOf";
import { usePlan } from "../../parts/plan";

const SKIES = [
  ["", "Any sky"],
  ["bright", "Bright sun"],
  ["hazy", "Thin cloud"],
  ["grey", "Grey sky"],
] as const;

/** Volts by battery, from and to the form they have in an address. */
function volts(measured: string): Map<string, number> {
  return new Map(
    measured
      .split(",")
      .filter((one) => one !== "")
      .map((one) => [one.split(":")[0] ?? "", Number(one.split(":")[1])]),
  );
}

type Props = { day: Day; put: (day: Day) => void; proved: Record<string, Schemas["Proved"]>; since: number };

export function DayFold({ day, put, proved, since }: Props) {
  const parts = usePlan().envelope.plan.parts ?? [];
  const batteries = parts.filter((one) => one.kind === "battery");
  const sunny = parts.some((one) => one.kind === "panel");
  const known = volts(day.measured);
  const set = (id: string, value: number | null) => {
    const next = new Map(known);
    if (value === null) next.delete(id);
    else next.set(id, value);
    put({ ...day, measured: [...next].map(([name, one]) => `${name}:${one}`).join(",") });
  };
  // Read at rest for the list today: one tap.
  const read = batteries.flatMap((one) => {
    const last = proved[`volts:+${one.id}~-${one.id}@rest`];
    const value = last?.judged.value;
    return last === undefined || Date.parse(last.made_at) < since || typeof value !== "number" || known.get(one.id) === value ? [] : [{ id: one.id, value }];
  });
  const told = [...(known.size > 0 ? [`${known.size} of ${batteries.length} batteries measured`] : []), ...(day.sky !== "" ? [SKIES.find(([id]) => id === day.sky)?.[1].toLowerCase() ?? ""] : [])].join(", ");
  return (
    <Fold title={`Today: ${told === "" ? "nothing entered, bands are wide" : told}`} className="border border-line bg-sheet px-2">
      <p className="text-sm text-soft">Batteries after an hour at rest. What is expected elsewhere follows from them.</p>
      <div className="flex flex-wrap items-end gap-3 pb-2">
        {batteries.map((one) => (
          <div key={one.id} className="w-40">
            <NumberField label={`${one.name}, V`} value={known.get(one.id) ?? null} onCommit={(value) => set(one.id, typeof value === "number" ? value : null)} />
          </div>
        ))}
        {read.length > 0 && (
          <Button onClick={() => put({ ...day, measured: [...new Map([...known, ...read.map((one) => [one.id, one.value] as const)])].map(([name, one]) => `${name}:${one}`).join(",") })}>
            Use today&apos;s readings
          </Button>
        )}
        {sunny && <OneOf label="Sky" value={day.sky} options={SKIES} onChange={(sky) => put({ ...day, sky })} />}
        {told !== "" && (
          <Button look="quiet" onClick={() => put({ measured: "", sky: "" })}>
            Clear
          </Button>
        )}
      </div>
    </Fold>
  );
}
