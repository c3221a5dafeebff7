// Zones with their ambient temperature, and the places in them.
import { Plus, Trash2 } from "lucide-react";
import { Button } from "../../parts/Button";
import { Check, Choice, TextField } from "../../parts/Labelled";
import { typed } from "../../parts/format";
import { usePlan } from "../../parts/plan";

export function freeId(prefix: string, taken: readonly string[]): string {
  let number = taken.length + 1;
  while (taken.includes(`${prefix}${number}`)) number += 1;
  return `${prefix}${number}`;
}

export function ZonesPanel() {
  const { envelope, patch } = usePlan();
  const zones = envelope.plan.zones;
  const places = envelope.plan.places ?? [];
  const set = (path: string, value: unknown) => patch([{ op: "add", path, value }]);
  return (
    <>
      <h3 className="pt-2 text-lg font-bold">Zones</h3>
      <ul className="space-y-2">
        {zones.map((zone) => (
          <li key={zone.id} className="grid grid-cols-[1fr_6.5rem_6.5rem_auto_auto_auto] items-end gap-2">
            <TextField label="Zone" value={zone.name} onCommit={(text) => set(`/zones/id:${zone.id}/name`, text)} />
            <TextField label="Ambient °C" inputMode="decimal" value={typed(zone.ambient_c ?? 30)} onCommit={(text) => set(`/zones/id:${zone.id}/ambient_c`, text.trim() === "" ? text : Number(text.replace(",", ".")))} />
            <TextField label="Coldest °C" inputMode="decimal" value={typed(zone.coldest_c ?? null)} onCommit={(text) => set(`/zones/id:${zone.id}/coldest_c`, text.trim() === "" ? null : Number(text.replace(",", ".")))} />
            <Check label="engine space" checked={zone.engine_space ?? false} onChange={(on) => set(`/zones/id:${zone.id}/engine_space`, on)} />
            <Check label="wet" checked={zone.wet ?? false} onChange={(on) => set(`/zones/id:${zone.id}/wet`, on)} />
            <Button look="quiet" aria-label={`Delete zone ${zone.name}`} disabled={zones.length === 1} onClick={() => void patch([{ op: "remove", path: `/zones/id:${zone.id}` }])}>
              <Trash2 size={18} />
            </Button>
          </li>
        ))}
      </ul>
      <Button onClick={() => void set("/zones/-", { id: freeId("z", zones.map((one) => one.id)), name: "New zone", ambient_c: 30 })}>
        <Plus size={18} /> Add a zone
      </Button>
      <h3 className="pt-2 text-lg font-bold">Places</h3>
      <ul className="space-y-2">
        {places.map((place) => (
          <li key={place.id} className="grid grid-cols-[1fr_1fr_auto_auto] items-end gap-2">
            <TextField label="Place" value={place.name} onCommit={(text) => set(`/places/id:${place.id}/name`, text)} />
            <Choice label="Zone" value={place.zone} options={zones.map((zone) => [zone.id, zone.name] as const)} onChange={(value) => set(`/places/id:${place.id}/zone`, value)} />
            <Check label="vented" checked={place.vented ?? false} onChange={(on) => set(`/places/id:${place.id}/vented`, on)} />
            <Button look="quiet" aria-label={`Delete place ${place.name}`} onClick={() => void patch([{ op: "remove", path: `/places/id:${place.id}` }])}>
              <Trash2 size={18} />
            </Button>
          </li>
        ))}
      </ul>
      <Button onClick={() => void set("/places/-", { id: freeId("p", places.map((one) => one.id)), name: "New place", zone: zones[0]?.id })}>
        <Plus size={18} /> Add a place
      </Button>
    </>
  );
}
