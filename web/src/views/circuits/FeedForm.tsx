// Feed a new part from here, or run a wire to one that is there.
import { useState } from "react";
import type { Edit, Part, PartCard } from "../../api/client";
import { Ask } from "../../parts/Ask";
import { Choice } from "../../parts/Labelled";
import { usePlan } from "../../parts/plan";
import { LibraryPicker } from "./LibraryPicker";

const LEGS = [
  ["both", "positive and negative"],
  ["positive", "positive only"],
  ["negative", "negative only"],
  ["series", "from its negative to the other's positive"],
] as const;

// Terminals that must be named; the usual one is meant otherwise.
const TERMINALS: Record<string, readonly (readonly [string, string])[]> = {
  relay: [
    ["", "contact"],
    ["coil", "coil"],
  ],
  charger: [
    ["", "usual way"],
    ["in", "supply"],
    ["out", "output"],
    ["out_b", "second output"],
    ["pv", "panels"],
  ],
  isolator: [
    ["", "usual way"],
    ["in", "starter side"],
    ["out", "house side"],
  ],
  switch: [
    ["", "usual way"],
    ["out_b", "second way out"],
  ],
};

type Terminal = NonNullable<Extract<Edit, { op: "connect" }>["start"]["terminal"]>;

export function FeedForm({ from, mode, onClose }: { from: Part; mode: "feed" | "connect" | null; onClose: () => void }) {
  const { envelope, edit } = usePlan();
  const [card, setCard] = useState<PartCard | null>(null);
  const [name, setName] = useState("");
  const [place, setPlace] = useState(from.place ?? "");
  const [length, setLength] = useState("");
  const [legs, setLegs] = useState<"both" | "positive" | "negative">("both");
  const [target, setTarget] = useState("");
  const [terminal, setTerminal] = useState("");
  const [ownTerminal, setOwnTerminal] = useState("");
  const { plan } = envelope;
  const others = (plan.parts ?? []).filter((one) => one.id !== from.id);
  const to = others.find((one) => one.id === target);
  const start = { part: from.id, terminal: ownTerminal === "" ? null : (ownTerminal as Terminal) };
  const send = () => {
    const edits: Edit[] =
      mode === "feed" && card !== null
        ? [
            {
              op: "feed_part",
              part: { ...card.part, name: name.trim() || card.name, place: place || null },
              fed_from: from.id,
              terminal: start.terminal,
              length,
              legs,
              confirmed: false,
            },
          ]
        : [
            {
              op: "connect",
              start,
              finish: { part: target, terminal: terminal === "" ? null : (terminal as Terminal) },
              length,
              legs,
              fused: false,
              confirmed: false,
            },
          ];
    void edit(edits).then((done) => done && onClose());
  };
  const ready = length.trim() !== "" && (mode === "feed" ? card !== null : target !== "");
  return (
    <Ask
      open={mode !== null}
      title={mode === "feed" ? `Feed a part from ${from.name}` : `A run from ${from.name}`}
      about={mode === "feed" ? "It comes with the run that feeds it, fused at a battery and in the way of a block." : "To a part that is there already."}
      yes={mode === "feed" ? "Feed it" : "Run it"}
      disabled={!ready}
      onYes={send}
      onClose={onClose}
    >
      {mode === "feed" ? (
        <>
          <LibraryPicker chosen={card} onChoose={setCard} />
          <label className="block">
            <span className="mb-1 block text-sm font-semibold">Name</span>
            <input className="field" placeholder={card?.name ?? ""} value={name} onChange={(event) => setName(event.target.value)} />
          </label>
          <Choice label="Place" value={place} options={[["", "no place"], ...(plan.places ?? []).map((one) => [one.id, one.name] as const)]} onChange={setPlace} />
        </>
      ) : (
        <>
          <Choice label="To" value={target} options={[["", "choose"], ...others.map((one) => [one.id, `${one.tag} ${one.name}`] as const)]} onChange={setTarget} />
          {to && TERMINALS[to.kind] && <Choice label="Its terminal" value={terminal} options={TERMINALS[to.kind] ?? []} onChange={setTerminal} />}
        </>
      )}
      {TERMINALS[from.kind] && <Choice label={`Terminal of ${from.name}`} value={ownTerminal} options={TERMINALS[from.kind] ?? []} onChange={setOwnTerminal} />}
      <div className="grid grid-cols-2 gap-3">
        <label className="block">
          <span className="mb-1 block text-sm font-semibold">Length, one way</span>
          <input className="field" placeholder={plan.units === "us" ? "8 ft" : "2.5 m"} value={length} onChange={(event) => setLength(event.target.value)} />
        </label>
        <Choice label="Conductors" value={legs} options={LEGS} onChange={(value) => setLegs(value as typeof legs)} />
      </div>
    </Ask>
  );
}
