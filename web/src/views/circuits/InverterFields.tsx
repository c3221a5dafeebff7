// Ratings of an inverter: with them its watts count on the AC side, and its wire must stand all of its power.
import type { Load } from "../../api/client";
import { Button } from "../../parts/Button";
import { NumberField } from "../../parts/NumberField";

const FIELDS = [
  ["continuous_w", "Continuous power, W"],
  ["surge_w", "Surge, W"],
  ["efficiency_frac", "Efficiency at full power, %"],
  ["best_efficiency_frac", "At a third of it, %"],
  ["standby_w", "Switched on with nothing plugged in, W"],
  ["standby_hours", "Switched on, hours a day"],
  ["cut_off_v", "Cuts off at, V"],
  ["charge_a", "Its charger gives, A"],
] as const;

export function InverterFields({ part, onSet }: { part: Load; onSet: (field: string, value: unknown) => unknown }) {
  const held = part.inverter as Record<string, number | null> | null | undefined;
  if (!held)
    return (
      <div className="border border-dashed border-line p-3 text-sm">
        <p className="mb-2">Its ratings are not stated: battery limit, cable and fuse cannot be checked against its full power.</p>
        <Button onClick={() => onSet("inverter", { continuous_w: part.power_w ?? 1000 })}>State its ratings</Button>
      </div>
    );
  return (
    <fieldset className="grid grid-cols-2 gap-3 border-t border-line pt-3">
      <legend className="text-sm font-semibold">As an inverter; its AC side is for a licensed person</legend>
      {FIELDS.map(([name, label]) => (
        <NumberField key={name} label={label} percent={name.endsWith("_frac")} value={held[name]} onCommit={(value) => onSet(`inverter/${name}`, value)} />
      ))}
    </fieldset>
  );
}
