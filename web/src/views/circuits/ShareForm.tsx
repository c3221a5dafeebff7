// Make loads share a feeder: a new block near them takes the place of their long runs.
import { useState } from "react";
import { Ask } from "../../parts/Ask";
import { Ticked } from "../../parts/Checkbox";
import { Choice } from "../../parts/Labelled";
import { usePlan } from "../../parts/plan";

export function ShareForm({ open, onClose }: { open: boolean; onClose: () => void }) {
  const { envelope, edit } = usePlan();
  const [picked, setPicked] = useState<string[]>([]);
  const [name, setName] = useState("");
  const [length, setLength] = useState("");
  const [branch, setBranch] = useState("");
  const [place, setPlace] = useState("");
  const { plan, report } = envelope;
  const fed = report.loads.filter((load) => load.circuit !== null);
  return (
    <Ask
      open={open}
      title="Make loads share a feeder"
      about="A new block near them takes the way of the first; each load gets a short run from it."
      yes="Share it"
      disabled={picked.length < 2 || name.trim() === "" || length.trim() === "" || branch.trim() === ""}
      onYes={() =>
        void edit([{ op: "share_feeder", parts: picked, name, length, branch_length: branch, place: place || null }]).then((done) => done && onClose())
      }
      onClose={onClose}
    >
      <fieldset>
        <legend className="mb-1 text-sm font-semibold">Loads</legend>
        <div className="grid max-h-56 gap-x-3 overflow-y-auto sm:grid-cols-2">
          {fed.map((load) => (
            <Ticked
              key={load.id}
              text={load.name}
              checked={picked.includes(load.id)}
              onChange={(on) => setPicked(on ? [...picked, load.id] : picked.filter((one) => one !== load.id))}
            />
          ))}
        </div>
      </fieldset>
      <label className="block">
        <span className="mb-1 block text-sm font-semibold">Name of the block</span>
        <input className="field" value={name} onChange={(event) => setName(event.target.value)} />
      </label>
      <div className="grid grid-cols-2 gap-3">
        <label className="block">
          <span className="mb-1 block text-sm font-semibold">Feeder, one way</span>
          <input className="field" placeholder={plan.units === "us" ? "12 ft" : "4 m"} value={length} onChange={(event) => setLength(event.target.value)} />
        </label>
        <label className="block">
          <span className="mb-1 block text-sm font-semibold">Each branch, one way</span>
          <input className="field" placeholder={plan.units === "us" ? "3 ft" : "1 m"} value={branch} onChange={(event) => setBranch(event.target.value)} />
        </label>
      </div>
      <Choice label="Place" value={place} options={[["", "no place"], ...(plan.places ?? []).map((one) => [one.id, one.name] as const)]} onChange={setPlace} />
    </Ask>
  );
}
