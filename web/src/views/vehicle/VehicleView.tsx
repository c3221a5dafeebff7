// The survey: job, vehicle, zones, places, operating states, and the practice set with what this plan changes in it.
import { usePlan } from "../../parts/plan";
import { BODIES } from "../../parts/bodies";
import { Choice, TextField } from "../../parts/Labelled";
import { PracticePanel } from "./PracticePanel";
import { StatesPanel } from "./StatesPanel";
import { ZonesPanel } from "./ZonesPanel";

const COLOURS = ["red", "black", "yellow", "brown", "blue", "green", "white", "orange", "grey", "purple", "pink", "tan"].map(
  (name) => [name, name] as const,
);

export function VehicleView() {
  const { envelope, patch } = usePlan();
  const { plan } = envelope;
  const set = (path: string) => (value: unknown) => patch([{ op: "add", path, value }]);
  return (
    <div className="grid max-w-6xl gap-6 lg:grid-cols-2">
      <section aria-labelledby="vehicle-title" className="space-y-3">
        <h2 id="vehicle-title" className="text-xl font-bold">
          Vehicle
        </h2>
        <div className="grid gap-3 sm:grid-cols-2">
          <TextField label="Job" value={plan.job.name} onCommit={set("/job/name")} />
          <TextField label="Customer" value={plan.job.customer ?? ""} onCommit={set("/job/customer")} />
          <TextField label="Vehicle" value={plan.job.vehicle?.name ?? ""} onCommit={set("/job/vehicle/name")} />
          <TextField label="Workshop" value={plan.job.workshop ?? ""} onCommit={set("/job/workshop")} />
          <Choice label="Body" value={plan.job.vehicle?.body ?? "steel"} options={BODIES} onChange={set("/job/vehicle/body")} />
          <Choice
            label="Nominal voltage"
            value={String(plan.nominal_v ?? 12)}
            options={[
              ["6", "6 V"],
              ["12", "12 V"],
              ["24", "24 V"],
            ]}
            onChange={(value) => set("/nominal_v")(Number(value))}
          />
          <Choice
            label="Units"
            value={plan.units ?? "metric"}
            options={[
              ["us", "feet and AWG"],
              ["metric", "metres and mm²"],
              ["metric_bs", "metres and B&S"],
            ]}
            onChange={set("/units")}
          />
          <div className="grid grid-cols-2 gap-2">
            <Choice label="Positive wire" value={plan.wire_colours?.positive ?? "red"} options={COLOURS} onChange={set("/wire_colours/positive")} />
            <Choice label="Negative wire" value={plan.wire_colours?.negative ?? "black"} options={COLOURS} onChange={set("/wire_colours/negative")} />
          </div>
        </div>
        <TextField label="Note" long value={plan.job.note ?? ""} onCommit={set("/job/note")} />
        <p className="text-sm text-soft">Units decide how a length without a unit is read. Wire sizes follow the practice set.</p>
        <ZonesPanel />
        <StatesPanel />
      </section>
      <PracticePanel />
    </div>
  );
}
