// A new channel: two places, and what the tape says.
import { useState } from "react";
import { Ask } from "../../parts/Ask";
import { lengthKeys } from "../../parts/format";
import { Choice, TextField } from "../../parts/Labelled";
import { usePlan } from "../../parts/plan";

export function AddChannel({ open, onClose }: { open: boolean; onClose: () => void }) {
  const { envelope, edit } = usePlan();
  const [start, setStart] = useState("");
  const [finish, setFinish] = useState("");
  const [name, setName] = useState("");
  const [length, setLength] = useState("");
  const { plan } = envelope;
  const places = [["", "choose"] as const, ...(plan.places ?? []).map((one) => [one.id, one.name] as const)];
  const take = (put: (value: string) => void) => (value: string) => {
    put(value);
    return true;
  };
  return (
    <Ask
      open={open}
      title="Add a channel"
      about="A way for wires between two places, measured once. One way: a channel has no there and back."
      yes="Add it"
      disabled={start === "" || finish === "" || start === finish}
      onYes={() => void edit([{ op: "add_channel", start, finish, name, length }]).then((done) => done && onClose())}
      onClose={onClose}
    >
      <Choice label="From" value={start} options={places} onChange={take(setStart)} />
      <Choice label="To" value={finish} options={places} onChange={take(setFinish)} />
      <TextField label="Tape says" hint={plan.units === "us" ? "as 7 ft 4 in" : "as 2.25 m"} keys={lengthKeys(plan.units ?? "metric")} value={length} onText={setLength} onCommit={setLength} />
      <label className="block">
        <span className="mb-1 block text-sm font-semibold">Name of the channel</span>
        <input className="field" placeholder="behind the left panel" value={name} onChange={(event) => setName(event.target.value)} />
      </label>
    </Ask>
  );
}
