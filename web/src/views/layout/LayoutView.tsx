// Where things are: the vehicle from above, its places, the channels between them, and how long each run is by its way.
import { MapPin, Plus } from "lucide-react";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { fileUrl } from "../../api/client";
import { Button } from "../../parts/Button";
import { Changed } from "../../parts/Changed";
import { Fold } from "../../parts/Fold";
import { guessed } from "../../parts/format";
import { Choice } from "../../parts/Labelled";
import { Picture } from "../../parts/Picture";
import { usePlan } from "../../parts/plan";
import { Side } from "../../parts/Side";
import { AddChannel } from "./AddChannel";
import { AddPlace } from "./AddPlace";
import { ChannelPanel } from "./ChannelPanel";
import { Channels } from "./Channels";
import { OutlineForm } from "./OutlineForm";
import { PlacePanel } from "./PlacePanel";
import { Places } from "./Places";
import { TakeChannels } from "./TakeChannels";

const CHOSEN = ["channel", "place"] as const;

export function LayoutView() {
  const { envelope, edit } = usePlan();
  const [search, setSearch] = useSearchParams();
  const [adding, setAdding] = useState<"place" | "channel" | null>(null);
  const [putting, setPutting] = useState<string | null>(null);
  const { plan, report } = envelope;
  const units = plan.units ?? "metric";
  const run = report.runs.find((one) => one.id === search.get("way"));
  const channel = report.channels.find((one) => one.id === search.get("channel"));
  const place = (plan.places ?? []).find((one) => one.id === search.get("place"));
  const put = (name: string, value: string | null) =>
    setSearch((before) => {
      const next = new URLSearchParams(before);
      if (name !== "way") for (const one of CHOSEN) next.delete(one);
      if (value === null) next.delete(name);
      else next.set(name, value);
      return next;
    });
  const open = (subject: string) => put((plan.places ?? []).some((one) => one.id === subject) ? "place" : "channel", subject);
  const loose = (plan.runs ?? []).filter((one) => !one.way);
  const lost = report.runs.filter((one) => one.way?.missing);
  const behind = search.get("working") !== null;
  return (
    <section aria-labelledby="layout-title" className="space-y-4">
      <div className="flex flex-wrap items-center gap-2">
        <h2 id="layout-title" className="grow text-xl font-bold">
          Layout
        </h2>
        <Button onClick={() => setAdding("place")}>
          <MapPin size={18} /> Add a place
        </Button>
        <Button look="main" disabled={(plan.places ?? []).length < 2} onClick={() => setAdding("channel")}>
          <Plus size={18} /> Add a channel
        </Button>
      </div>
      <div className="max-w-sm">
        <Choice
          label="Show the way of"
          value={run?.id ?? ""}
          options={[["", "no run"], ...report.runs.map((one) => [one.id, `${one.tag} ${one.name || one.finish_label}`] as const)]}
          onChange={(value) => {
            put("way", value === "" ? null : value);
            return true;
          }}
        />
      </div>
      {run?.way && (
        <p>
          <b className="font-mono">{run.tag}</b> {run.way.missing === "" ? run.way.through || "stays at its place" : run.way.missing} ·{" "}
          {guessed(run.length_m, run.length_guessed, units)}
          {run.way.holes > 0 && ` · ${run.way.holes} ${run.way.holes === 1 ? "hole" : "holes"}`}
        </p>
      )}
      {run && !run.way && <p>{run.tag} is measured by itself: {guessed(run.length_m, run.length_guessed, units)}.</p>}
      {putting !== null && (
        <p role="status" className="flex flex-wrap items-center gap-3 border-l-4 border-copper bg-zinc px-3 py-1">
          Click on the plan where {(plan.places ?? []).find((one) => one.id === putting)?.name} is.
          <Button look="quiet" onClick={() => setPutting(null)}>
            Leave it where it is
          </Button>
        </p>
      )}
      <Picture
        kind="layout"
        subject={run?.id ?? null}
        chosen={channel?.id ?? place?.id ?? null}
        onOpen={open}
        onPoint={
          putting === null
            ? undefined
            : (along, across) => {
                void edit([{ op: "put_place", place: putting, x_m: along, y_m: across }]);
                setPutting(null);
              }
        }
      />
      <Changed />
      {lost.length > 0 && <p>{lost.map((one) => one.tag).join(", ")} {lost.length === 1 ? "finds" : "find"} no way yet; Checks says why.</p>}
      {loose.length > 0 && report.channels.length > 0 && (
        <p className="flex flex-wrap items-center gap-3">
          <span>
            {loose.length} {loose.length === 1 ? "run is" : "runs are"} measured by {loose.length === 1 ? "itself" : "themselves"}: {loose.map((one) => one.tag).join(", ")}
          </span>
          <Button onClick={() => void edit([{ op: "follow_channels", runs: loose.map((one) => one.id), follow: true, use: [], avoid: [], keep_length: false }])}>
            Let them follow the channels
          </Button>
        </p>
      )}
      <Channels onOpen={(id) => put("channel", id)} onWay={(id) => put("way", id)} />
      <div className="flex flex-wrap items-center gap-3">
        <TakeChannels />
        {report.channels.length > 0 && (
          <>
            <a className="inline-flex min-h-11 items-center underline" href={fileUrl(envelope.plan_id, "channels.csv")} download>
              Channels CSV
            </a>
            <a className="inline-flex min-h-11 items-center underline" href={fileUrl(envelope.plan_id, "bundles.csv")} download>
              Bundles CSV
            </a>
          </>
        )}
      </div>
      <Places onOpen={(id) => put("place", id)} />
      <Fold title={<b className="font-semibold">The vehicle from above</b>} open={!plan.job.vehicle?.outline}>
        <OutlineForm />
      </Fold>
      <AddPlace key={`place-${adding === "place"}`} open={adding === "place"} onClose={() => setAdding(null)} />
      <AddChannel key={`channel-${adding === "channel"}`} open={adding === "channel"} onClose={() => setAdding(null)} />
      <Side wide open={channel !== undefined && !behind} title={channel?.name ?? ""} onClose={() => put("channel", null)}>
        {channel && <ChannelPanel key={channel.id} channel={channel} onGone={() => put("channel", null)} />}
      </Side>
      <Side wide open={place !== undefined && channel === undefined && !behind} title={place?.name ?? ""} onClose={() => put("place", null)}>
        {place && (
          <PlacePanel
            key={place.id}
            place={place}
            onGone={() => put("place", null)}
            onPut={() => {
              setPutting(place.id);
              put("place", null);
            }}
          />
        )}
      </Side>
    </section>
  );
}
