// All of one place: where it is, how one reaches it, what stands there.
import { Crosshair, Trash2 } from "lucide-react";
import type { Schemas } from "../../api/client";
import { Button } from "../../parts/Button";
import { Choice, TextField } from "../../parts/Labelled";
import { LengthField } from "../../parts/LengthField";
import { Photos } from "../../parts/Photos";
import { usePlan } from "../../parts/plan";

const YES_NO = [
  ["", "not known"],
  ["yes", "yes"],
  ["no", "no"],
] as const;

export function known(value: boolean | null | undefined): string {
  return value === null || value === undefined ? "" : value ? "yes" : "no";
}

export function PlacePanel({ place, onGone, onPut }: { place: Schemas["Place"]; onGone: () => void; onPut: () => void }) {
  const { envelope, edit, patch, goTo } = usePlan();
  const { plan } = envelope;
  const set = (field: string, value: unknown) => patch([{ op: "add", path: `/places/id:${place.id}/${field}`, value }]);
  const parts = (plan.parts ?? []).filter((one) => one.place === place.id);
  return (
    <div className="space-y-5">
      <div className="grid grid-cols-2 gap-3">
        <TextField label="Name" value={place.name} onCommit={(text) => void set("name", text)} />
        <Choice label="Zone" value={place.zone} options={plan.zones.map((zone) => [zone.id, zone.name] as const)} onChange={(value) => set("zone", value)} />
        <LengthField label="From the front" value_m={place.x_m} onCommit={(value) => set("x_m", value)} />
        <LengthField label="From the left" value_m={place.y_m} onCommit={(value) => set("y_m", value)} />
        <LengthField label="Above the floor" value_m={place.z_m} onCommit={(value) => set("z_m", value)} />
        <Choice
          label="Reached"
          value={place.reach ?? "open"}
          options={[
            ["open", "at hand"],
            ["panel", "behind a panel that opens"],
            ["closed", "behind a closed wall"],
          ]}
          onChange={(value) => set("reach", value)}
        />
        <Choice label="Vented to outside" value={known(place.vented)} options={YES_NO} onChange={(value) => set("vented", value === "" ? null : value === "yes")} />
        <Choice label="Room and air around" value={known(place.airy)} options={YES_NO} onChange={(value) => set("airy", value === "" ? null : value === "yes")} />
      </div>
      <Button onClick={onPut}>
        <Crosshair size={18} /> Put it on the plan
      </Button>
      <div>
        <h3 className="text-sm font-semibold">Stands here</h3>
        {parts.length === 0 && <p className="text-soft">Nothing; channels may meet here.</p>}
        <ul>
          {parts.map((one) => (
            <li key={one.id} className="border-t border-line">
              <button type="button" className="flex min-h-11 w-full items-center gap-2 text-left hover:bg-zinc" onClick={() => goTo(one.id)}>
                <span className="font-mono text-sm">{one.tag}</span> {one.name}
              </button>
            </li>
          ))}
        </ul>
      </div>
      <Photos kind="place" subject={place.id} name={place.name} />
      <div className="border-t border-line pt-3">
        <Button
          onClick={() => {
            onGone();
            void edit([{ op: "delete_place", place: place.id }]);
          }}
        >
          <Trash2 size={18} /> Remove it with its channels
        </Button>
      </div>
    </div>
  );
}
