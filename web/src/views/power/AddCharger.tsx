// A charger with its wires: what it gives to, what it is fed by, and its panels.
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { partsQuery } from "../../api/plans";
import { Ask } from "../../parts/Ask";
import { Choice, TextField } from "../../parts/Labelled";
import { usePlan } from "../../parts/plan";

const FORMS = [
  ["dcdc", "another battery, while driving"],
  ["sun", "panels (solar controller)"],
  ["shore", "shore power (mains charger)"],
] as const;
const GIVES = ["busbar", "battery", "fuse_block"];

export function AddCharger({ open, onClose }: { open: boolean; onClose: () => void }) {
  const { envelope, edit } = usePlan();
  const { data: library = [] } = useQuery(partsQuery);
  const parts = envelope.plan.parts ?? [];
  const targets = parts.filter((one) => GIVES.includes(one.kind));
  const bar = targets.find((one) => one.kind === "busbar") ?? targets.find((one) => one.kind === "battery");
  const starter = parts.find((one) => one.kind === "battery" && one.use === "starter");
  const feet = envelope.plan.units === "us";
  const [form, setForm] = useState("dcdc");
  const [unit, setUnit] = useState("");
  const [panel, setPanel] = useState("");
  const [target, setTarget] = useState(bar?.id ?? "");
  const [source, setSource] = useState(starter?.id ?? "");
  const [give, setGive] = useState(feet ? "2.5 ft" : "0.8 m");
  const [feed, setFeed] = useState(feet ? "16 ft" : "5 m");
  const [roof, setRoof] = useState(feet ? "13 ft" : "4 m");
  const units = library.filter((one) => one.part.kind === "charger" && one.part.form === form);
  const panels = library.filter((one) => one.part.kind === "panel");
  const chosen = units.find((one) => one.name === unit) ?? units[0];
  const roofed = panels.find((one) => one.name === panel) ?? panels[0];
  const named = (list: typeof parts) => list.map((one) => [one.id, `${one.tag} ${one.name}`] as const);
  const problem = target === "" ? "There is nothing to charge yet: add a battery." : form === "dcdc" && source === "" ? "Add the starter battery first, or let a system be proposed." : null;
  return (
    <Ask
      open={open}
      title="Add a charger"
      about="It is fused where it meets a battery. Its figures are typical: set those of the unit in hand afterwards."
      yes="Add it"
      problem={problem}
      disabled={problem !== null || chosen === undefined}
      onYes={() => {
        if (chosen === undefined) return;
        void edit([
          {
            op: "add_charger",
            part: chosen.part,
            gives_to: target,
            give_length: give,
            fed_from: form === "dcdc" ? source : null,
            feed_length: feed,
            panel: form === "sun" && roofed ? roofed.part : null,
            panel_length: roof,
          },
        ]).then((done) => done && onClose());
      }}
      onClose={onClose}
    >
      <Choice label="Fed by" value={form} options={FORMS} onChange={setForm} />
      <Choice label="Charger" value={chosen?.name ?? ""} options={units.map((one) => [one.name, one.name] as const)} onChange={setUnit} />
      <div className="grid grid-cols-2 gap-3">
        <Choice label="Gives to" value={target} options={named(targets)} onChange={setTarget} />
        <TextField label="Length to there, one way" value={give} onCommit={setGive} />
        {form === "dcdc" && <Choice label="Fed from" value={source} options={[["", "nothing"], ...named(parts.filter((one) => ["battery", "joint", "busbar"].includes(one.kind)))]} onChange={setSource} />}
        {form === "dcdc" && <TextField label="Length from there, one way" value={feed} onCommit={setFeed} />}
        {form === "sun" && <Choice label="Panels" value={roofed?.name ?? ""} options={panels.map((one) => [one.name, one.name] as const)} onChange={setPanel} />}
        {form === "sun" && <TextField label="Roof run, one way" value={roof} onCommit={setRoof} />}
      </div>
    </Ask>
  );
}
