// Cut a run and put a part in: a switch before a load, a shunt into the negative, a joint to branch from.
import { useState } from "react";
import type { PartCard, RunReport } from "../../api/client";
import { Ask } from "../../parts/Ask";
import { Choice } from "../../parts/Labelled";
import { usePlan } from "../../parts/plan";
import { LibraryPicker } from "./LibraryPicker";

const POSITIVE = ["switch", "relay", "keyed_feed", "joint", "busbar"];
const NEGATIVE = ["shunt", "busbar", "joint", "chassis_point"];

export function InsertForm({ run, open, onClose }: { run: RunReport; open: boolean; onClose: () => void }) {
  const { envelope, edit } = usePlan();
  const [card, setCard] = useState<PartCard | null>(null);
  const [name, setName] = useState("");
  const [near, setNear] = useState<"start" | "finish">("start");
  const [length, setLength] = useState("");
  return (
    <Ask
      open={open}
      title={`Put a part into ${run.tag}`}
      about={`The run is cut; what stands at its ends stays there. From ${run.start_label} to ${run.finish_label}.`}
      yes="Put it in"
      disabled={card === null || length.trim() === ""}
      onYes={() => {
        if (card === null) return;
        const part = { ...card.part, name: name.trim() || card.name };
        void edit([{ op: "insert_part", run: run.id, part, near, length }]).then((done) => done && onClose());
      }}
      onClose={onClose}
    >
      <LibraryPicker chosen={card} kinds={run.legs === "negative" ? NEGATIVE : POSITIVE} onChoose={setCard} />
      <label className="block">
        <span className="mb-1 block text-sm font-semibold">Name</span>
        <input className="field" placeholder={card?.name ?? ""} value={name} onChange={(event) => setName(event.target.value)} />
      </label>
      <div className="grid grid-cols-2 gap-3">
        <Choice
          label="Measured from"
          value={near}
          options={[
            ["start", run.start_label],
            ["finish", run.finish_label],
          ]}
          onChange={(value) => setNear(value as typeof near)}
        />
        <label className="block">
          <span className="mb-1 block text-sm font-semibold">So far from it, one way</span>
          <input className="field" placeholder={envelope.plan.units === "us" ? "1 ft" : "0.3 m"} value={length} onChange={(event) => setLength(event.target.value)} />
        </label>
      </div>
    </Ask>
  );
}
