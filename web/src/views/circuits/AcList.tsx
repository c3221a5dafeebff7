// What runs on AC behind an inverter: it makes the watts, hours and starts the inverter must serve.
import { Plus, Trash2 } from "lucide-react";
import type { Load } from "../../api/client";
import { Button } from "../../parts/Button";
import { watts } from "../../parts/format";
import { Check, TextField } from "../../parts/Labelled";
import { NumberField } from "../../parts/NumberField";

export function AcList({ part, onSet }: { part: Load; onSet: (field: string, value: unknown) => unknown }) {
  const devices = part.ac ?? [];
  const change = (at: number, fields: object) => onSet("ac", devices.map((one, k) => (k === at ? { ...one, ...fields } : one)));
  return (
    <fieldset className="border-t border-line pt-3">
      <legend className="text-sm font-semibold">What runs on AC behind it</legend>
      {devices.length === 0 && <p className="text-sm text-soft">Nothing listed: its watts and hours are those typed in the load list.</p>}
      <ul className="space-y-3">
        {devices.map((one, at) => (
          <li key={at} className="grid grid-cols-2 gap-2 border-t border-line pt-2">
            <TextField label="Device" value={one.name} onCommit={(text) => change(at, { name: text })} />
            <NumberField label="Watts" value={one.power_w} onCommit={(value) => change(at, { power_w: value })} />
            <NumberField label="Hours a day" value={one.hours_per_day ?? 1} onCommit={(value) => change(at, { hours_per_day: value })} />
            <NumberField label="Start, times running" value={one.inrush_factor ?? 1} onCommit={(value) => change(at, { inrush_factor: value })} />
            <Check label="never with the others" checked={one.alone ?? false} onChange={(on) => change(at, { alone: on })} />
            <Button look="quiet" aria-label={`Remove ${one.name}`} onClick={() => onSet("ac", devices.filter((_, k) => k !== at))}>
              <Trash2 size={17} /> Remove
            </Button>
          </li>
        ))}
      </ul>
      {devices.length > 0 && part.power_w != null && (
        <p className="mt-2 text-sm">
          Together {watts(part.power_w)}, as if on for {Number((part.hours_per_day ?? 0).toPrecision(2))} h a day.
        </p>
      )}
      <Button onClick={() => onSet("ac", [...devices, { name: "New device", power_w: 100, hours_per_day: 1, inrush_factor: 1, alone: false }])}>
        <Plus size={17} /> Add a device
      </Button>
    </fieldset>
  );
}
