// The vehicle from above, from a few measures.
import { Plus, Trash2 } from "lucide-react";
import { Button } from "../../parts/Button";
import { Choice } from "../../parts/Labelled";
import { LengthField } from "../../parts/LengthField";
import { usePlan } from "../../parts/plan";

const SHAPES = [
  ["long_van", "long van"],
  ["short_van", "short van"],
  ["pickup", "pickup with canopy"],
  ["caravan", "caravan"],
  ["coach", "coach"],
  ["boat", "small boat"],
  ["motorcycle", "motorcycle"],
  ["plain", "plain rectangle"],
] as const;
const WALLS = [
  ["left", "left"],
  ["right", "right"],
] as const;
const ENDS = [...WALLS, ["front", "front"], ["rear", "rear"]] as const;

export function OutlineForm() {
  const { envelope, patch } = usePlan();
  const outline = envelope.plan.job.vehicle?.outline;
  const path = "/job/vehicle/outline";
  if (!outline)
    return (
      <Button onClick={() => void patch([{ op: "add", path, value: { shape: "plain" } }])}>
        <Plus size={18} /> Measure the vehicle
      </Button>
    );
  const set = (field: string, value: unknown) => patch([{ op: "add", path: `${path}/${field}`, value }]);
  return (
    <div className="max-w-3xl space-y-3">
      <div className="grid grid-cols-2 gap-3 @xl:grid-cols-4">
        <Choice label="Shape" value={outline.shape ?? "plain"} options={SHAPES} onChange={(value) => set("shape", value)} />
        <LengthField label="Inside length" value_m={outline.length_m} onCommit={(value) => set("length_m", value)} />
        <LengthField label="Inside width" value_m={outline.width_m} onCommit={(value) => set("width_m", value)} />
        <LengthField label="Inside height" value_m={outline.height_m} onCommit={(value) => set("height_m", value)} />
        <LengthField label="Ahead of the inside" value_m={outline.nose_m} onCommit={(value) => set("nose_m", value)} />
        <LengthField label="Cab, of the inside" value_m={outline.cab_m} onCommit={(value) => set("cab_m", value)} />
        <Choice label="Traffic keeps" value={outline.traffic ?? "right"} options={WALLS} onChange={(value) => set("traffic", value)} />
      </div>
      <h4 className="text-sm font-semibold">Wheel arches</h4>
      <ul className="space-y-2">
        {(outline.arches ?? []).map((one) => (
          <li key={one.id} className="grid grid-cols-2 items-end gap-2 @xl:grid-cols-[1fr_1fr_1fr_1fr_auto]">
            <Choice label="Side" value={one.side} options={WALLS} onChange={(value) => set(`arches/id:${one.id}/side`, value)} />
            <LengthField label="From the front" value_m={one.from_front_m} onCommit={(value) => set(`arches/id:${one.id}/from_front_m`, value)} />
            <LengthField label="Long" value_m={one.length_m} onCommit={(value) => set(`arches/id:${one.id}/length_m`, value)} />
            <LengthField label="Wide" value_m={one.width_m} onCommit={(value) => set(`arches/id:${one.id}/width_m`, value)} />
            <Button look="quiet" aria-label="Remove this wheel arch" onClick={() => void patch([{ op: "remove", path: `${path}/arches/id:${one.id}` }])}>
              <Trash2 size={18} />
            </Button>
          </li>
        ))}
      </ul>
      <Button onClick={() => void set("arches/-", { side: "left", from_front_m: 2 })}>
        <Plus size={18} /> Add a wheel arch
      </Button>
      <h4 className="text-sm font-semibold">Doors</h4>
      <ul className="space-y-2">
        {(outline.doors ?? []).map((one) => (
          <li key={one.id} className="grid grid-cols-2 items-end gap-2 @xl:grid-cols-[1fr_1fr_1fr_auto]">
            <Choice label="Wall" value={one.side} options={ENDS} onChange={(value) => set(`doors/id:${one.id}/side`, value)} />
            <LengthField label={one.side === "front" || one.side === "rear" ? "From the left" : "From the front"} value_m={one.from_m} onCommit={(value) => set(`doors/id:${one.id}/from_m`, value)} />
            <LengthField label="Wide" value_m={one.width_m} onCommit={(value) => set(`doors/id:${one.id}/width_m`, value)} />
            <Button look="quiet" aria-label="Remove this door" onClick={() => void patch([{ op: "remove", path: `${path}/doors/id:${one.id}` }])}>
              <Trash2 size={18} />
            </Button>
          </li>
        ))}
      </ul>
      <Button onClick={() => void set("doors/-", { side: "left", from_m: 1 })}>
        <Plus size={18} /> Add a door
      </Button>
    </div>
  );
}
