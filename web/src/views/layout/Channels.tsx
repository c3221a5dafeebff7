// The channels: a table to type in at the desk, a card each in the hand. The tape's reading is typed right here.
import type { Schemas } from "../../api/client";
import { guessed, lengthKeys, millimetres, percent } from "../../parts/format";
import { TextField } from "../../parts/Labelled";
import { usePlan } from "../../parts/plan";
import { Sleeve } from "../../parts/Sleeve";
import { Verdict, type Grade } from "../../parts/Verdict";

type Channel = Schemas["ChannelReport"];

export function Reading({ channel }: { channel: Channel }) {
  const { envelope, edit } = usePlan();
  const doc = envelope.plan.channels?.find((one) => one.id === channel.id);
  const units = envelope.plan.units ?? "metric";
  return (
    <TextField
      label={`Length of ${channel.name}`}
      keys={lengthKeys(units)}
      value={doc?.length_as_typed ?? (doc?.length_m == null ? "" : guessed(doc.length_m, false, units))}
      hint={channel.length_guessed ? (channel.length_m === null ? "not measured, not drawn" : `${guessed(channel.length_m, true, units)} as drawn`) : ""}
      onCommit={(text) => void edit([{ op: "measure_channel", channel: channel.id, text }])}
    />
  );
}

function Lying({ channel, onWay }: { channel: Channel; onWay: (run: string) => void }) {
  const { envelope } = usePlan();
  const colour = envelope.plan.wire_colours?.positive ?? "red";
  const runs = channel.runs.map((id) => envelope.report.runs.find((one) => one.id === id)).filter((one) => one !== undefined);
  if (runs.length === 0) return <span className="text-soft">nothing</span>;
  return (
    <span className="flex flex-wrap gap-1">
      {runs.map((run) => (
        <button key={run.id} type="button" className="min-h-9" aria-label={`Show the way of ${run.tag}`} onClick={() => onWay(run.id)}>
          <Sleeve tag={run.tag} colour={colour} />
        </button>
      ))}
    </span>
  );
}

function holes(channel: Channel): string {
  if (channel.holes.length === 0) return "none";
  const [first] = channel.holes;
  const buy = first === undefined || channel.wires === 0 ? "" : first.grommet_mm === null ? ", gland plate" : `, grommet ${millimetres(first.grommet_mm)}`;
  return `${channel.holes.length}${buy}`;
}

export function Channels({ onOpen, onWay }: { onOpen: (id: string) => void; onWay: (run: string) => void }) {
  const { envelope } = usePlan();
  const channels = envelope.report.channels;
  if (channels.length === 0)
    return (
      <p className="border border-line bg-sheet p-3">
        No channel yet. A channel is a way for wires between two places, behind a panel or along a rib. Measure it once with the tape; every run then finds its own
        way and length.
      </p>
    );
  return (
    <div>
      <h3 className="mb-2 text-lg font-bold">Channels</h3>
      <ul className="space-y-2 @3xl:hidden" aria-label="Channels">
        {channels.map((one) => (
          <li key={one.id} className="space-y-2 border border-line bg-sheet p-3">
            <button type="button" className="flex min-h-11 w-full items-center gap-2 text-left" onClick={() => onOpen(one.id)}>
              <Verdict grade={one.verdict as Grade} word={false} />
              <span className="grow">
                <b>{one.name}</b>
                <span className="block text-sm text-soft">
                  {one.start} – {one.finish}
                  {one.holes.length > 0 && ` · ${one.holes.length} ${one.holes.length === 1 ? "hole" : "holes"}`}
                </span>
              </span>
              <span className="font-mono text-lg">{guessed(one.length_m, one.length_guessed, envelope.plan.units ?? "metric")}</span>
            </button>
            <Reading channel={one} />
            <Lying channel={one} onWay={onWay} />
          </li>
        ))}
      </ul>
      <div className="relative hidden overflow-x-auto border border-line bg-sheet @3xl:block" tabIndex={0} role="region" aria-label="Channels, scrolls sideways">
        <table className="w-full border-collapse">
          <thead className="bg-zinc">
            <tr>
              {["Channel", "From – to", "Length", "Runs in it", "Together", "Bundle", "Fill", "Holes", "Verdict"].map((name) => (
                <th key={name} scope="col" className="head">
                  {name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {channels.map((one) => (
              <tr key={one.id} className="border-t border-line align-top">
                <th scope="row" className="px-1.5 text-left">
                  <button type="button" className="min-h-11 text-left font-semibold underline decoration-line underline-offset-4" onClick={() => onOpen(one.id)}>
                    {one.name}
                  </button>
                </th>
                <td className="px-1.5 py-2 text-sm">
                  {one.start} – {one.finish}
                </td>
                <td className="w-28 px-1.5 py-0.5 [&_label]:sr-only">
                  <Reading channel={one} />
                </td>
                <td className="max-w-56 px-1.5 py-1">
                  <Lying channel={one} onWay={onWay} />
                </td>
                <td className="px-1.5 py-2 text-right font-mono">{one.conductors}</td>
                <td className="px-1.5 py-2 text-right font-mono whitespace-nowrap">{one.wires > 0 ? millimetres(one.bundle_mm) : "–"}</td>
                <td className="px-1.5 py-2 text-right font-mono whitespace-nowrap">{one.fill_frac === null ? "open" : percent(one.fill_frac, 0)}</td>
                <td className="px-1.5 py-2 text-sm whitespace-nowrap">{holes(one)}</td>
                <td className="px-1.5 py-2">
                  <Verdict grade={one.verdict as Grade} />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </div>
  );
}
