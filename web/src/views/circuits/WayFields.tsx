// The way of a run along the channels: what its length is made of, and how a person bends it.
import { Route, RouteOff } from "lucide-react";
import type { Run, RunReport } from "../../api/client";
import { Button } from "../../parts/Button";
import { Figure } from "../../parts/Figure";
import { distance, guessed, length, percent } from "../../parts/format";
import { Fold } from "../../parts/Fold";
import { Select } from "../../parts/Select";
import { usePlan } from "../../parts/plan";

export function WayFields({ run, doc }: { run: RunReport; doc: Run }) {
  const { envelope, edit } = usePlan();
  const { plan, report } = envelope;
  const units = plan.units ?? "metric";
  const channels = report.channels;
  if (channels.length === 0) return null;
  const follow = (values: { use?: string[]; avoid?: string[]; keep?: boolean }) =>
    edit([
      {
        op: "follow_channels",
        runs: [run.id],
        follow: true,
        use: values.use ?? doc.way?.use ?? [],
        avoid: values.avoid ?? doc.way?.avoid ?? [],
        keep_length: values.keep ?? doc.way?.length_pinned ?? false,
      },
    ]);
  if (!run.way)
    return (
      <div className="flex flex-wrap items-center gap-3 border border-line p-2 text-sm">
        <span className="grow">Measured by itself.</span>
        <Button onClick={() => void follow({})}>
          <Route size={18} /> Follow the channels
        </Button>
      </div>
    );
  const way = run.way;
  const use: readonly string[] = doc.way?.use ?? [];
  const avoid: readonly string[] = doc.way?.avoid ?? [];
  const bend = (id: string) => (use.includes(id) ? "use" : avoid.includes(id) ? "avoid" : "");
  const set = (id: string, how: string) =>
    void follow({
      use: how === "use" ? [...use.filter((one) => one !== id), id] : use.filter((one) => one !== id),
      avoid: how === "avoid" ? [...avoid.filter((one) => one !== id), id] : avoid.filter((one) => one !== id),
    });
  return (
    <div className="space-y-2 border border-line p-2">
      <h3 className="text-sm font-semibold">Its way</h3>
      {way.missing === "" ? (
        <p className="text-sm">
          {way.through || "stays at its place"}
          <span className="block text-soft">
            {length(way.channels_m, units)} of channels, tails {distance(way.tail_start_m, units)} and {distance(way.tail_finish_m, units)}, slack {distance(way.slack_m, units)}:{" "}
            <Figure small workingKey={`${run.id}.way_m`} text={guessed(way.along_m, run.length_guessed, units)} label="Length along its channels" />
          </span>
          <span className="block text-soft">
            Worst stretch, {way.worst}: {percent(way.worst_share, 0)} of what it may in free air
            {way.holes > 0 && `; ${way.holes} ${way.holes === 1 ? "hole" : "holes"}`}
          </span>
          {way.length_pinned && <span className="block">Its length is pinned at {length(run.length_m, units)}.</span>}
        </p>
      ) : (
        <p className="text-sm">No way: {way.missing}.</p>
      )}
      <div className="flex flex-wrap gap-2">
        {way.length_pinned && (
          <Button onClick={() => void follow({ keep: false })}>
            <Route size={18} /> Take the length of its way
          </Button>
        )}
        <Button onClick={() => void edit([{ op: "follow_channels", runs: [run.id], follow: false, use: [], avoid: [], keep_length: false }])}>
          <RouteOff size={18} /> Measure it by itself
        </Button>
      </div>
      <Fold title={`Channels it must take or avoid: ${use.length + avoid.length}`}>
        <ul className="space-y-1">
          {channels.map((one) => (
            <li key={one.id} className="grid grid-cols-[1fr_9rem] items-center gap-2 text-sm">
              <span>
                {one.name} <span className="text-soft">{guessed(one.length_m, one.length_guessed, units)}</span>
              </span>
              <Select
                label={`${run.tag} and ${one.name}`}
                value={bend(one.id)}
                options={[
                  ["", "as it comes"],
                  ["use", "must take"],
                  ["avoid", "must not take"],
                ]}
                onChange={(how) => set(one.id, how)}
              />
            </li>
          ))}
        </ul>
      </Fold>
    </div>
  );
}
