// All of one run: figures that open to their working, what a person may set, what a person may pin.
import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import type { RunReport } from "../../api/client";
import { practiceQuery } from "../../api/plans";
import { Button } from "../../parts/Button";
import { Figure } from "../../parts/Figure";
import { amps, celsius, distance, length, milliohms, percent, typed, volts } from "../../parts/format";
import { Choice, TextField } from "../../parts/Labelled";
import { runFigures, usePlan } from "../../parts/plan";
import { Verdict } from "../../parts/Verdict";
import { PinForm } from "./PinForm";

function Line({ name, children }: { name: string; children: ReactNode }) {
  return (
    <div className="flex items-baseline justify-between gap-2 border-t border-line py-1">
      <dt className="text-sm text-soft">{name}</dt>
      <dd className="text-right font-semibold">{children}</dd>
    </div>
  );
}

export function RunPanel({ run }: { run: RunReport }) {
  const { envelope, edit, patch, stateId } = usePlan();
  const practice = useQuery(practiceQuery);
  const { plan, report } = envelope;
  const index = (plan.runs ?? []).findIndex((one) => one.id === run.id);
  const doc = plan.runs?.[index];
  if (doc === undefined) return null;
  const now = runFigures(run, stateId);
  const units = plan.units ?? "metric";
  const key = (name: string) => `${run.id}.${name}`;
  const set = (field: string, value: unknown) => patch([{ op: "add", path: `/runs/${index}/${field}`, value }]);
  const findings = report.findings.filter((one) => run.finding_ids.includes(one.id));
  const sizes = practice.data?.sizes ?? {};
  const shelfSystem = report.rules.find((one) => one.rule === "size_system");
  const systemName = Object.entries(practice.data?.schools.size_system ?? {}).find(([, words]) => words === shelfSystem?.shown)?.[0];
  const family = run.fuse?.family ?? "";
  const ratings = practice.data?.ratings_a[family] ?? [];
  const number = (text: string) => (text.trim() === "" ? text : Number(text.replace(",", ".")));
  return (
    <div className="space-y-5">
      {findings.map((one) => (
        <div key={one.id} className="border-l-4 border-line bg-zinc p-2 text-sm">
          {one.waived === null ? <Verdict grade={one.severity} /> : <b className="text-soft">waived</b>} {one.what}
          <span className="block">{one.mend}</span>
        </div>
      ))}
      <dl>
        <Line name="From">{run.start_label}</Line>
        <Line name="To">{run.finish_label}</Line>
        <Line name="Design current">
          <Figure workingKey={key("design_current_a")} text={amps(run.design_current_a)} label="Design current" />
        </Line>
        <Line name="Current solved">
          <Figure workingKey={key("current_a")} text={amps(now.current_a)} label="Current solved" />
        </Line>
        <Line name="One way">{length(run.length_m, units)}</Line>
        <Line name="There and back">
          <Figure workingKey={key("length_m")} text={length(run.loop_length_m, units)} label="There and back" />
        </Line>
        <Line name="Wire">
          <Figure workingKey={key("wire")} text={run.wire.label} label="Wire" />
        </Line>
        <Line name="Carries here">
          <Figure workingKey={key("ampacity_a")} text={amps(run.wire.ampacity_a)} label="Ampacity" />
        </Line>
        <Line name="Fuse">
          <Figure
            workingKey={key("fuse")}
            text={run.fuse ? (run.fuse.rating_a === null ? "none made" : `${run.fuse.rating_a} A ${run.fuse.family_label}`) : run.protected_by ? `by ${run.protected_by}` : "none"}
            label="Fuse"
            plain={run.fuse === null}
          />
        </Line>
        <Line name="Conductor at load">
          <Figure workingKey={key("temp_c")} text={celsius(run.temp_c)} label="Conductor temperature" />
        </Line>
        <Line name="Drop of this run">
          <Figure workingKey={key("drop_v")} text={`${volts(now.drop_v)} · ${percent(now.drop_frac)}`} label="Drop of this run" />
        </Line>
        <Line name="Battery to its end">
          <Figure workingKey={key("drop_to_end")} text={`${volts(now.drop_to_end_v)} · ${percent(now.drop_to_end_frac)}`} label="Drop to its end" plain={!run.fed} />
        </Line>
        <Line name="Resistance, both legs">
          <Figure workingKey={key("resistance_ohm")} text={milliohms(run.resistance_ohm)} label="Resistance" />
        </Line>
        <Line name="Least margin behind it">
          <Figure workingKey={key("margin_frac")} text={percent(run.margin_frac)} label="Least margin" plain={run.margin_frac === null} />
        </Line>
      </dl>
      <div className="grid grid-cols-2 gap-3">
        <TextField
          label="One way"
          value={doc.length_as_typed?.endsWith("loop") ? length(run.length_m, units) : (doc.length_as_typed ?? length(run.length_m, units))}
          onCommit={(text) => void edit([{ op: "set_length", run: run.id, text, reading: "one_way", confirmed: false }])}
        />
        <TextField
          label="There and back"
          value={doc.length_as_typed?.endsWith("loop") ? doc.length_as_typed.replace(" loop", "") : length(run.loop_length_m, units)}
          onCommit={(text) => void edit([{ op: "set_length", run: run.id, text, reading: "loop", confirmed: false }])}
        />
        <Choice
          label="Passes zone"
          value={doc.zone ?? ""}
          options={[["", "that of its ends"], ...plan.zones.map((zone) => [zone.id, zone.name] as const)]}
          onChange={(value) => set("zone", value === "" ? null : value)}
        />
        <TextField label="Conductors together" inputMode="decimal" value={String(doc.bundle_count ?? 2)} onCommit={(text) => set("bundle_count", number(text))} />
        <TextField
          label="Insulation °C"
          inputMode="decimal"
          value={typed(doc.insulation_c)}
          hint={doc.insulation_c ? "" : `set's ${run.wire.insulation_c} °C`}
          onCommit={(text) => set("insulation_c", text.trim() === "" ? null : number(text))}
        />
        {doc.fuse_at_start && doc.start.way === null && (
          <TextField
            label="Fuse after, m"
            inputMode="decimal"
            value={typed(doc.fuse_at_start.distance_m ?? 0)}
            hint={run.fuse ? `${distance(run.fuse.distance_m, units)} of wire before it` : ""}
            onCommit={(text) => set("fuse_at_start/distance_m", number(text))}
          />
        )}
      </div>
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
          onPin={(rating, reason) => edit([{ op: "pin_fuse", run: run.id, rating_a: Number(rating), reason }])}
          onLetGo={() => edit([{ op: "pin_fuse", run: run.id, rating_a: null, reason: "" }])}
        />
      ) : (
        <Button onClick={() => void set("fuse_at_start", { distance_m: 0 })}>Give this step a fuse of its own</Button>
      )}
      {run.fuse && doc.start.way === null && (
        <Button onClick={() => void set("fuse_at_start", null)}>Take the fuse out</Button>
      )}
    </div>
  );
}
