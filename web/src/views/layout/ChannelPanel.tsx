// All of one channel: its reading, what lies near, how it is held, its holes, what is wrong with it.
import { Plus, Trash2 } from "lucide-react";
import type { Schemas } from "../../api/client";
import { Button } from "../../parts/Button";
import { Ticked } from "../../parts/Checkbox";
import { Figure } from "../../parts/Figure";
import { celsius, millimetres, percent } from "../../parts/format";
import { THROUGH, THROUGH_NAME } from "../../parts/holes";
import { Check, Choice, TextField } from "../../parts/Labelled";
import { LengthField } from "../../parts/LengthField";
import { FindingsHere } from "../../parts/Mends";
import { NumberField } from "../../parts/NumberField";
import { Photos } from "../../parts/Photos";
import { usePlan } from "../../parts/plan";
import { Reading } from "./Channels";

const NEAR = [
  ["exhaust", "exhaust"],
  ["heat", "something hot"],
  ["fuel", "fuel line"],
  ["moving", "something that moves"],
] as const;

export function ChannelPanel({ channel, onGone }: { channel: Schemas["ChannelReport"]; onGone: () => void }) {
  const { envelope, edit, patch } = usePlan();
  const { plan, report } = envelope;
  const doc = plan.channels?.find((one) => one.id === channel.id);
  if (doc === undefined) return null;
  const path = `/channels/id:${doc.id}`;
  const set = (field: string, value: unknown) => patch([{ op: "add", path: `${path}/${field}`, value }]);
  const findings = report.findings.filter((one) => channel.finding_ids.includes(one.id));
  const near: readonly string[] = doc.near ?? [];
  return (
    <div className="space-y-5">
      <FindingsHere findings={findings} />
      <Reading channel={channel} />
      <p className="text-sm text-soft">
        {channel.start} to {channel.finish} · {celsius(channel.ambient_c)} · {channel.wires} {channel.wires === 1 ? "wire" : "wires"}, {channel.conductors} loaded together
        {channel.wires > 0 && ` · bundle ${millimetres(channel.bundle_mm)}`}
        {channel.fill_frac !== null && (
          <>
            {" · "}
            <Figure workingKey={`${channel.id}.fill_frac`} text={`${percent(channel.fill_frac, 0)} full`} label="Fill of the conduit" plain={channel.wires === 0} /> of{" "}
            {percent(channel.fill_limit_frac, 0)}
          </>
        )}
      </p>
      <div className="grid grid-cols-2 gap-3">
        <TextField label="Name" value={doc.name} onCommit={(text) => void set("name", text)} />
        <Choice
          label="Lies in zone"
          value={doc.zone ?? ""}
          options={[["", "those of its places"], ...plan.zones.map((zone) => [zone.id, zone.name] as const)]}
          onChange={(value) => set("zone", value === "" ? null : value)}
        />
        <LengthField short label="Clamps every" value_m={doc.clamp_m} onCommit={(value) => set("clamp_m", value)} />
        <NumberField label="Conduit, inside mm" hint={doc.inside_mm == null ? `open; ${millimetres(channel.inside_needed_mm)} would do` : ""} value={doc.inside_mm} onCommit={(value) => set("inside_mm", value)} />
        <Choice
          label="Mains wiring in it"
          value={doc.mains ?? "none"}
          options={[
            ["none", "none"],
            ["apart", "kept apart"],
            ["together", "beside"],
          ]}
          onChange={(value) => set("mains", value)}
        />
      </div>
      <fieldset>
        <legend className="text-sm font-semibold">Near it</legend>
        <div className="grid grid-cols-2 gap-x-3">
          {NEAR.map(([value, text]) => (
            <Ticked key={value} text={text} checked={near.includes(value)} onChange={(on) => void set("near", on ? [...near, value] : near.filter((one) => one !== value))} />
          ))}
        </div>
      </fieldset>
      <div className="grid grid-cols-2 gap-x-3">
        <Check label="guarded there" checked={doc.guarded ?? false} onChange={(on) => set("guarded", on)} />
        <Check label="gas line in it" checked={doc.gas ?? false} onChange={(on) => set("gas", on)} />
        <Check label="gets closed behind a panel" checked={doc.closed ?? false} onChange={(on) => set("closed", on)} />
        <Check label="screws go there later" checked={doc.screws ?? false} onChange={(on) => set("screws", on)} />
      </div>
      <div>
        <h3 className="text-sm font-semibold">Holes</h3>
        <ul className="space-y-2">
          {(doc.crossings ?? []).map((hole, at) => {
            const told = channel.holes.find((one) => one.id === hole.id);
            const at_hole = `${path}/crossings/id:${hole.id}`;
            const put = (field: string, value: unknown) => patch([{ op: "add", path: `${at_hole}/${field}`, value }]);
            return (
              <li key={hole.id ?? at} className="space-y-1 border-t border-line pt-2">
                <div className="grid grid-cols-[1fr_1fr_auto] items-end gap-2">
                  <Choice label="Through" value={hole.through} options={THROUGH} onChange={(value) => put("through", value)} />
                  <NumberField label="Left for wires, mm" value={hole.hole_mm} onCommit={(value) => put("hole_mm", value)} />
                  <Button look="quiet" aria-label={`Remove hole ${at + 1}`} onClick={() => void patch([{ op: "remove", path: at_hole }])}>
                    <Trash2 size={18} />
                  </Button>
                </div>
                <div className="flex flex-wrap gap-x-4">
                  <Check label="grommet" checked={hole.grommet ?? true} onChange={(on) => put("grommet", on)} />
                  <Check label="sealed" checked={hole.sealed ?? true} onChange={(on) => put("sealed", on)} />
                  <Check label="there already" checked={hole.existing ?? false} onChange={(on) => put("existing", on)} />
                </div>
                {told && channel.wires > 0 && (
                  <p className="text-sm text-soft">
                    {millimetres(told.needed_mm)} needed in {THROUGH_NAME[hole.through]}
                    {told.grommet_mm === null ? "; no grommet is made so large: gland plate" : `; grommet ${millimetres(told.grommet_mm)}${hole.existing ? "" : ` in a ${millimetres(told.drill_mm)} hole`}`}
                  </p>
                )}
              </li>
            );
          })}
        </ul>
        <Button className="mt-2" onClick={() => void patch([{ op: "add", path: `${path}/crossings/-`, value: { through: "metal" } }])}>
          <Plus size={18} /> Add a hole
        </Button>
      </div>
      <Photos kind="channel" subject={doc.id} name={doc.name} />
      <div className="border-t border-line pt-3">
        <Button
          onClick={() => {
            onGone();
            void edit([{ op: "delete_channel", channel: doc.id }]);
          }}
        >
          <Trash2 size={18} /> Remove this channel
        </Button>
      </div>
    </div>
  );
}
