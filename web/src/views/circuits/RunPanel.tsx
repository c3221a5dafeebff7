// All of one run: figures that open to their working, what a person may set, what a person may pin.
import { useQuery } from "@tanstack/react-query";
import { useState, type ReactNode } from "react";
import type { RunReport } from "../../api/client";
import { practiceQuery } from "../../api/plans";
import { BenchLink } from "../../parts/BenchLink";
import { Button } from "../../parts/Button";
import { Figure } from "../../parts/Figure";
import { opening, selectivity } from "../../parts/faults";
import { amps, celsius, distance, length, lengthKeys, milliohms, percent, typed, volts, wholeAmps } from "../../parts/format";
import { LABELS } from "../../parts/labels";
import { Choice, TextField } from "../../parts/Labelled";
import { FindingsHere } from "../../parts/Mends";
import { LengthField } from "../../parts/LengthField";
import { NumberField } from "../../parts/NumberField";
import { Picture } from "../../parts/Picture";
import { runFigures, usePlan } from "../../parts/plan";
import { JOINT } from "./joints";
import { StudFields } from "./StudFields";
import { WhyHere } from "./WhyHere";
import { FuseFields } from "./FuseFields";
import { HoleFields } from "./HoleFields";
import { InsertForm } from "./InsertForm";
import { MeasureHere } from "./MeasureHere";
import { PinForm } from "./PinForm";
import { WayFields } from "./WayFields";

const NAMES = LABELS.quantities;

function Line({ name, children }: { name: string; children: ReactNode }) {
  return (
    <div className="flex items-baseline justify-between gap-2 border-t border-line py-0.5">
      <dt className="text-sm text-soft">{name}</dt>
      <dd className="text-right font-semibold">{children}</dd>
    </div>
  );
}

export function RunPanel({ run }: { run: RunReport }) {
  const { envelope, edit, patch, stateId } = usePlan();
  const practice = useQuery(practiceQuery);
  const [inserting, setInserting] = useState(false);
  const { plan, report } = envelope;
  const doc = plan.runs?.find((one) => one.id === run.id);
  if (doc === undefined) return null;
  const now = runFigures(run, stateId);
  const units = plan.units ?? "metric";
  const key = (name: string) => `${run.id}.${name}`;
  const set = (field: string, value: unknown) => patch([{ op: "add", path: `/runs/id:${run.id}/${field}`, value }]);
  const findings = report.findings.filter((one) => run.finding_ids.includes(one.id));
  const sizes = practice.data?.sizes ?? {};
  const shelfSystem = report.rules.find((one) => one.rule === "size_system");
  const systemName = Object.entries(practice.data?.schools.size_system ?? {}).find(([, words]) => words === shelfSystem?.shown)?.[0];
  const family = run.fuse?.family ?? "";
  // A pin goes to the end the fuse stands at: that of a charger's output stands at the bar.
  const fuseEnd = run.fuse?.end ?? null;
  const ratings = practice.data?.ratings_a[family] ?? [];
  const endLoad = report.loads.find((one) => one.circuit === run.id)?.id;
  const guard = (one: RunReport["start_guard"]) =>
    one.fuses.length === 0 ? (one.fed ? "nothing" : "–") : `${one.fuses.join(", ")}${one.unprotected_m > 0 ? ` · ${distance(one.unprotected_m, units)} before it` : ""}`;
  const number = (text: string) => (text.trim() === "" ? text : Number(text.replace(",", ".")));
  return (
    <div className="space-y-5">
      <MeasureHere run={run} />
      <FindingsHere findings={findings} />
      {run.fed && <WhyHere run={run} />}
      <dl>
        <Line name={NAMES.from}>{run.start_label}</Line>
        <Line name={NAMES.to}>{run.finish_label}</Line>
        <Line name={NAMES.design_current_a}>
          <Figure workingKey={key("design_current_a")} text={amps(run.design_current_a)} label="Design current" />
        </Line>
        <Line name={NAMES.carry_a}>
          <Figure workingKey={key("current_a")} text={amps(now.current_a)} label="Current solved" />
        </Line>
        <Line name={NAMES.length_m}>{run.length_guessed ? `~${length(run.length_m, units)}, not measured yet` : length(run.length_m, units)}</Line>
        <Line name={run.legs === "both" ? NAMES.loop_length_m : "One leg only"}>
          <Figure workingKey={key("length_m")} text={length(run.loop_length_m, units)} label="There and back" />
        </Line>
        <Line name={NAMES.wire}>
          <Figure workingKey={key("wire")} text={run.parallel > 1 ? `${run.parallel} × ${run.wire.label}` : run.wire.label} label="Wire" />
        </Line>
        <Line name={NAMES.ampacity_a}>
          <Figure workingKey={key("ampacity_a")} text={amps(run.wire.ampacity_a)} label="Ampacity" />
        </Line>
        <Line name={NAMES.fuse}>
          <Figure
            workingKey={key("fuse")}
            text={run.fuse ? (run.fuse.rating_a === null ? "none made" : `${run.fuse.count > 1 ? `${run.fuse.count} × ` : ""}${run.fuse.rating_a} A ${run.fuse.family_label}`) : run.protected_by ? `by ${run.protected_by}` : "none"}
            label="Fuse"
            plain={run.fuse === null}
          />
        </Line>
        {run.far_fuse !== null && (
          <Line name="Fuse at the far end">{run.far_fuse.rating_a === null ? "none made" : `${run.far_fuse.rating_a} A ${run.far_fuse.family_label}`}</Line>
        )}
        <Line name={NAMES.temp_c}>
          <Figure workingKey={key("temp_c")} text={celsius(run.temp_c)} label="Conductor temperature" />
        </Line>
        <Line name="By heat balance: conductor, surface">
          <Figure workingKey={key("heat")} text={`${celsius(now.conductor_c)} · ${celsius(now.surface_c)}`} label="Heat balance" />
        </Line>
        <Line name={NAMES.connected_a}>
          {amps(run.connected_a)}
          {run.diversity_frac !== null && ` · ${percent(run.diversity_frac, 0)} together`}
        </Line>
        <Line name="Guarded from its start">{guard(run.start_guard)}</Line>
        {run.finish_guard.fed && <Line name="Guarded from its finish">{guard(run.finish_guard)}</Line>}
        <Line name={NAMES.conductor_drop_v}>
          <Figure workingKey={key("conductor_drop_v")} text={`${volts(now.conductor_drop_v)} · ${percent(now.conductor_drop_frac)}`} label="Drop in its conductors" />
        </Line>
        <Line name={NAMES.drop_v}>
          <Figure workingKey={key("drop_v")} text={`${volts(now.drop_v)} · ${percent(now.drop_frac)}`} label="Drop of this run in all" />
        </Line>
        <Line name={NAMES.conductor_drop_to_end_frac}>
          {volts(now.conductor_drop_to_end_v)} · {percent(now.conductor_drop_to_end_frac)}
        </Line>
        <Line name={NAMES.drop_to_end_frac}>
          <Figure workingKey={key("drop_to_end")} text={`${volts(now.drop_to_end_v)} · ${percent(now.drop_to_end_frac)}`} label="Drop to its end in all" plain={!run.fed} />
        </Line>
        <Line name={NAMES.greatest_a}>
          <Figure workingKey={key("greatest_a")} text={amps(run.greatest_a)} label="Max current" />
        </Line>
        {run.fuse !== null && run.fuse.short_a > 0 && (
          <Line name="Short circuit through its fuse">
            <Figure workingKey={key("breaking")} text={`${amps(run.fuse.short_a)} · breaks ${amps(run.fuse.breaks_a)}`} label="Short circuit through its fuse" />
            {run.fuse.backed_by !== null && <span className="block text-sm text-soft">{run.fuse.backed_by} before it breaks that.</span>}
          </Line>
        )}
        {run.spare && <Line name="Spare: largest fuse later">{amps(run.later_fuse_a)}</Line>}
        <Line name={NAMES.resistance_ohm}>
          <Figure workingKey={key("resistance_ohm")} text={milliohms(run.resistance_ohm)} label="Resistance" />
        </Line>
        <Line name={NAMES.margin_frac}>
          <Figure workingKey={key("margin_frac")} text={percent(run.margin_frac)} label="Min margin" plain={run.margin_frac === null} />
        </Line>
      </dl>
      <WayFields run={run} doc={doc} />
      <div className="grid grid-cols-2 gap-3">
        <TextField
          label="One way"
          keys={lengthKeys(units)}
          hint={run.way && !run.way.length_pinned ? "by its way; type to pin it" : run.way ? "pinned; empty it to follow its way" : ""}
          value={run.way && !run.way.length_pinned ? length(run.length_m, units) : doc.length_as_typed?.endsWith("loop") ? length(run.length_m, units) : (doc.length_as_typed ?? length(run.length_m, units))}
          onCommit={(text) => void edit([{ op: "set_length", run: run.id, text, reading: "one_way", confirmed: false }])}
        />
        <TextField
          label="There and back"
          keys={lengthKeys(units)}
          value={(!run.way || run.way.length_pinned) && doc.length_as_typed?.endsWith("loop") ? doc.length_as_typed.replace(" loop", "") : length(run.loop_length_m, units)}
          onCommit={(text) => void edit([{ op: "set_length", run: run.id, text, reading: "loop", confirmed: false }])}
        />
        <Choice
          label="Passes zone"
          value={doc.zone ?? ""}
          options={[["", "that of its ends"], ...plan.zones.map((zone) => [zone.id, zone.name] as const)]}
          onChange={(value) => set("zone", value === "" ? null : value)}
        />
        {!run.way && <TextField label="Conductors together" inputMode="decimal" keys={[]} value={String(doc.bundle_count ?? 2)} onCommit={(text) => set("bundle_count", number(text))} />}
        <TextField
          label="Insulation °C"
          inputMode="decimal"
          value={typed(doc.insulation_c)}
          hint={doc.insulation_c ? "" : `set's ${run.wire.insulation_c} °C`}
          onCommit={(text) => set("insulation_c", text.trim() === "" ? null : number(text))}
        />
        <Choice
          label="Conductors"
          value={doc.legs ?? "both"}
          options={[
            ["both", "pair"],
            ["positive", "positive only"],
            ["negative", "negative only"],
          ]}
          onChange={(value) => set("legs", value)}
        />
        <NumberField label="In parallel, each leg" value={doc.parallel ?? 1} onCommit={(value) => set("parallel", value)} />
        <Choice
          label="Kind of wire"
          value={doc.wire_type ?? ""}
          options={[
            ["", "stranded, for vehicles"],
            ["marine_tinned", "marine, tinned"],
            ["automotive", "automotive"],
            ["battery_cable", "flexible battery cable"],
            ["building", "building wire"],
            ["solid", "solid"],
          ]}
          onChange={(value) => set("wire_type", value === "" ? null : value)}
        />
        {(["start", "finish"] as const).map((end) => (
          <Choice
            key={end}
            label={end === "start" ? "Ends at its start in" : "Ends at its finish in"}
            value={doc[end].joint ?? ""}
            options={[["", `as usual: ${JOINT[end === "start" ? run.start_joint : run.finish_joint] ?? "joint"}`], ...Object.entries(JOINT).filter(([name]) => name !== "chassis")]}
            onChange={(value) => set(end, { ...doc[end], joint: value === "" ? null : value })}
          />
        ))}
        <LengthField short label="Longest stretch unclamped" value_m={doc.unsupported_m} onCommit={(value) => set("unsupported_m", value)} />
      </div>
      <StudFields doc={doc} onChange={(end, value) => set(end, value)} />
      <TextField label="Name of the run" value={doc.name ?? ""} hint={doc.name ? "" : "Shown instead of what it feeds"} onCommit={(text) => set("name", text)} />
      <PinForm
        what="wire"
        now={run.wire.pinned ? `${run.wire.label}; it would be ${run.wire.computed_label}. ${run.wire.pin_reason}` : `${run.wire.label}, computed`}
        pinned={run.wire.pinned}
        options={(sizes[systemName ?? "awg"] ?? []).map((size) => [size, size] as const)}
        onPin={(size, reason) => edit([{ op: "pin_wire", run: run.id, size, reason }])}
        onLetGo={() => edit([{ op: "pin_wire", run: run.id, size: "", reason: "" }])}
      />
      {run.fuse ? (
        <PinForm
          what="fuse"
          now={
            run.fuse.pinned
              ? `${run.fuse.rating_a} A; it would be ${run.fuse.computed_rating_a ?? "none"} A. ${run.fuse.pin_reason}`
              : `${run.fuse.rating_a ?? "none"} A, computed`
          }
          pinned={run.fuse.pinned}
          options={ratings.map((rating) => [String(rating), `${rating} A`] as const)}
          onPin={(rating, reason) => edit([{ op: "pin_fuse", run: run.id, end: fuseEnd, rating_a: Number(rating), reason }])}
          onLetGo={() => edit([{ op: "pin_fuse", run: run.id, end: fuseEnd, rating_a: null, reason: "" }])}
        />
      ) : null}
      {doc.legs !== "negative" && (
        <>
          <FuseFields doc={doc} end="start" />
          <FuseFields doc={doc} end="finish" />
        </>
      )}
      <HoleFields doc={doc} />
      {run.faults.length > 0 && (
        <div>
          <h3 className="mb-1 text-sm font-semibold">A short in it</h3>
          <table className="w-full text-sm">
            <tbody>
              {run.faults.map((fault) => (
                <tr key={fault.where} className="border-t border-line align-top">
                  <th scope="row" className="py-1 pr-2 text-left font-normal">
                    {fault.where}
                  </th>
                  <td className="py-1 pr-2 whitespace-nowrap">
                    <Figure workingKey={key("short_weakest")} text={wholeAmps(fault.weakest_a)} label={`Weakest short at its ${fault.where}`} /> to{" "}
                    <Figure workingKey={key("short_strongest")} text={wholeAmps(fault.strongest_a)} label={`Strongest short at its ${fault.where}`} />
                  </td>
                  <td className={`py-1 ${fault.slow_s === null ? "font-semibold text-stop" : ""}`}>
                    {opening(fault)}
                    {fault.wire_c !== null && <Figure workingKey={key("opening")} text={`wire ${celsius(fault.wire_c)}`} label={`Wire in a short at its ${fault.where}`} />}
                    <span className="block text-soft">{selectivity(fault)}</span>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {run.faults.length > 0 && <Picture kind="fuse-window" subject={run.id} />}
      {endLoad !== undefined && <Picture kind="pinch" subject={endLoad} />}
      <div className="flex flex-wrap gap-2 border-t border-line pt-3">
        <BenchLink run={run.id} tag={run.tag} happens={run.faults.length > 0 ? "short" : "load"} />
        <Button onClick={() => setInserting(true)}>Put a part into it</Button>
        <Button onClick={() => void edit([{ op: "delete_run", run: run.id }])}>Remove this run</Button>
      </div>
      <InsertForm key={String(inserting)} run={run} open={inserting} onClose={() => setInserting(false)} />
    </div>
  );
}
