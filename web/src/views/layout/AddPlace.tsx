// A new place: a name is enough.
import { useState } from "react";
import { Ask } from "../../parts/Ask";
import { Choice } from "../../parts/Labelled";
import { usePlan } from "../../parts/plan";

export function AddPlace({ open, onClose }: { open: boolean; onClose: () => void }) {
  const { envelope, edit } = usePlan();
  const [name, setName] = useState("");
  const [zone, setZone] = useState("");
  const zones = envelope.plan.zones;
  return (
    <Ask
      open={open}
      title="Add a place"
      about="A spot where things are mounted or channels meet."
      yes="Add it"
      disabled={name.trim() === ""}
      onYes={() => void edit([{ op: "add_place", name, zone: zone || null }]).then((done) => done && onClose())}
      onClose={onClose}
    >
      <label className="block">
        <span className="mb-1 block text-sm font-semibold">Name of the place</span>
        <input className="field" value={name} onChange={(event) => setName(event.target.value)} />
      </label>
      <Choice
        label="Zone"
        value={zone}
        options={[["", "that of the last place"], ...zones.map((one) => [one.id, one.name] as const)]}
        onChange={(value) => {
          setZone(value);
          return true;
        }}
      />
    </Ask>
  );
}
