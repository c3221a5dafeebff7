// What stands on the bench, in fields. Every change runs it anew.
import type { Setup } from "../../api/bench";
import type { Schemas } from "../../api/client";
import { Check, Choice } from "../../parts/Labelled";
import { lengthUnit, metresOf, typedLength, type Units } from "../../parts/format";
import { NumberField } from "../../parts/NumberField";

type Choices = Schemas["BenchChoices"];

const SYSTEMS = [
  ["awg", "AWG"],
  ["bs", "B&S"],
  ["mm2", "mm²"],
  ["sae", "SAE"],
  ["auto_mm", "auto mm (outside)"],
] as const;
const LOADS = [
  ["short", "Dead short"],
  ["current", "So many amperes"],
  ["resistive", "Heater or bulb"],
  ["electronics", "Electronics (holds its watts)"],
  ["inverter", "Inverter (watts at its outlet)"],
  ["motor", "Motor that starts"],
  ["heater", "Heater that cycles"],
] as const;
const CHEMISTRIES: Record<string, string> = { flooded: "Flooded lead", agm: "AGM lead", gel: "Gel lead", lfp: "LFP lithium" };
const USUAL: Record<string, number | null> = { short: null, current: 40, resistive: 200, electronics: 100, inverter: 1200, motor: 15, heater: 1200 };

// What is not a number is kept out here by name: the bench goes on with what it had.
const numbers = (put: (value: number) => void) => (value: number | string | null) => {
  if (typeof value === "number") put(value);
};

export function SetupForm({ setup, choices, units, onSetup }: { setup: Setup; choices: Choices; units: Units; onSetup: (setup: Setup) => void }) {
  const { wire, load, fuse, source, end } = setup;
  const put = <Key extends keyof Setup>(key: Key, change: Partial<NonNullable<Setup[Key]>>) =>
    onSetup({ ...setup, [key]: { ...(setup[key] as object), ...change } });
  const sizes = choices.sizes[wire.system] ?? [];
  const family = choices.families.find((one) => one.id === fuse?.family);
  const given = source.open_v !== null;
  return (
    <div className="grid grid-cols-2 gap-2 sm:grid-cols-3">
      <Choice label="Sizes" value={wire.system} options={SYSTEMS} onChange={(system) => put("wire", { system: system as typeof wire.system, size: choices.sizes[system]?.includes(wire.size) ? wire.size : (choices.sizes[system]?.[4] ?? "") })} />
      <Choice label="Wire" value={wire.size} options={sizes.map((one) => [one, one])} onChange={(size) => put("wire", { size })} />
      <NumberField
        label={`One way, ${lengthUnit(units)}`}
        value={typedLength(wire.length_m, units)}
        onCommit={numbers((value) => put("wire", { length_m: metresOf(value, units) }))}
      />
      <NumberField label="Insulation, °C" value={wire.insulation_c} onCommit={numbers((insulation_c) => put("wire", { insulation_c }))} />
      <NumberField label="Air around, °C" value={wire.ambient_c} onCommit={numbers((ambient_c) => put("wire", { ambient_c }))} />
      <NumberField label="Wires beside it" value={wire.neighbours} onCommit={numbers((neighbours) => put("wire", { neighbours, neighbours_carry: neighbours > 0 && (wire.neighbours_carry || wire.neighbours === 0) }))} />
      <Choice label="Load" value={load.kind} options={LOADS} onChange={(kind) => put("load", { kind: kind as typeof load.kind, amount: USUAL[kind] ?? null })} />
      {load.kind !== "short" && (
        <NumberField label={load.kind === "current" || load.kind === "motor" ? "Amperes, A" : "Watts, W"} value={load.amount} onCommit={numbers((amount) => put("load", { amount }))} />
      )}
      {load.kind === "motor" && (
        <>
          <NumberField label="Starts with, times" value={load.inrush_factor} onCommit={numbers((inrush_factor) => put("load", { inrush_factor }))} />
          <NumberField label="For, s" value={load.inrush_s} onCommit={numbers((inrush_s) => put("load", { inrush_s }))} />
        </>
      )}
      {load.kind === "heater" && (
        <>
          <NumberField label="On, s" value={load.on_s} onCommit={numbers((on_s) => put("load", { on_s }))} />
          <NumberField label="Off, s" value={load.off_s} onCommit={numbers((off_s) => put("load", { off_s }))} />
        </>
      )}
      <Choice
        label="Fuse"
        value={fuse?.family ?? ""}
        options={[["", "No fuse"], ...choices.families.map((one): [string, string] => [one.id, one.label])]}
        onChange={(id) => {
          const made = choices.families.find((one) => one.id === id);
          const wanted = fuse?.rating_a ?? 30;
          const rating_a = made === undefined ? 30 : (made.ratings_a.find((one) => one >= wanted) ?? made.ratings_a.at(-1) ?? 30);
          onSetup({ ...setup, fuse: id === "" ? null : { family: id as NonNullable<Setup["fuse"]>["family"], rating_a, edge: fuse?.edge ?? "slow" } });
        }}
      />
      {fuse !== null && (
        <>
          <Choice
            label="Rating"
            value={String(fuse.rating_a)}
            options={[...new Set([fuse.rating_a, ...(family?.ratings_a ?? [])])].sort((a, b) => a - b).map((one) => [String(one), `${one} A`])}
            onChange={(rating) => put("fuse", { rating_a: Number(rating) })}
          />
          <Choice
            label="Edge of its band"
            value={fuse.edge}
            options={[
              ["slow", "Slow: harms most"],
              ["fast", "Quick: opens first"],
            ]}
            onChange={(edge) => put("fuse", { edge: edge as "slow" | "fast" })}
          />
        </>
      )}
      <Choice label="Joint" value={end.joint} options={choices.joints.map((one) => [one.id, one.label])} onChange={(joint) => put("end", { joint: joint as typeof end.joint })} />
      <NumberField label="Joint has too much, mΩ" value={end.too_much_mohm} onCommit={numbers((too_much_mohm) => put("end", { too_much_mohm }))} />
      {given ? (
        <>
          <NumberField label="Source, V" value={source.open_v} onCommit={numbers((open_v) => put("source", { open_v }))} />
          <NumberField label="Inside it, Ω" value={source.inside_ohm} onCommit={numbers((inside_ohm) => put("source", { inside_ohm }))} />
        </>
      ) : (
        <>
          <Choice label="Battery" value={source.chemistry} options={choices.chemistries.map((one) => [one.id, CHEMISTRIES[one.id] ?? one.label])} onChange={(chemistry) => put("source", { chemistry: chemistry as typeof source.chemistry })} />
          <NumberField label="Capacity, Ah" value={source.capacity_ah} onCommit={numbers((capacity_ah) => put("source", { capacity_ah }))} />
          <Choice
            label="System"
            value={String(source.nominal_v)}
            options={[
              ["12", "12 V"],
              ["24", "24 V"],
            ]}
            onChange={(volts) => put("source", { nominal_v: Number(volts) as 12 | 24 })}
          />
        </>
      )}
      <Choice
        label="Way back"
        value={wire.returns}
        options={[
          ["wire", "By wire"],
          ["body", "By the body"],
        ]}
        onChange={(returns) => put("wire", { returns: returns as "wire" | "body" })}
      />
      <div className="col-span-full flex flex-wrap gap-x-4">
        <Check label="The wires beside it carry as much" checked={wire.neighbours_carry} onChange={(on) => put("wire", { neighbours_carry: on })} />
        <Check label="Thin-wall insulation" checked={wire.thin_wall} onChange={(on) => put("wire", { thin_wall: on })} />
      </div>
    </div>
  );
}
