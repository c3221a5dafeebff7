// All of one part: its ratings, what passes it, what is wrong with it, and what can be done from here.
import { useQueryClient } from "@tanstack/react-query";
import { BookmarkPlus, MapPin, Plus, Trash2 } from "lucide-react";
import { useState } from "react";
import { toast } from "sonner";
import { answered, client, type Part } from "../../api/client";
import { partsQuery } from "../../api/plans";
import { Button } from "../../parts/Button";
import { Changed } from "../../parts/Changed";
import { Figure } from "../../parts/Figure";
import { amps, milliohms, number, percent, volts } from "../../parts/format";
import { KIND } from "../../parts/kinds";
import { Check, Choice, TextField } from "../../parts/Labelled";
import { FindingsHere } from "../../parts/Mends";
import { NumberField } from "../../parts/NumberField";
import { Picture } from "../../parts/Picture";
import { usePlan } from "../../parts/plan";
import { Sleeve } from "../../parts/Sleeve";
import { FIELDS } from "./fields";
import { BestPlaces } from "./BestPlaces";
import { FeedForm } from "./FeedForm";
import { AcList } from "./AcList";
import { InverterFields } from "./InverterFields";

// What may stand elsewhere.
const MOVES = new Set(["fuse_block", "battery", "charger", "busbar", "switch"]);

export function PartPanel({ part, onGone }: { part: Part; onGone: () => void }) {
  const { envelope, edit, patch, goTo } = usePlan();
  const cache = useQueryClient();
  const [moving, setMoving] = useState(false);
  const [feeding, setFeeding] = useState<"feed" | "connect" | null>(null);
  const { plan, report } = envelope;
  const shown = report.parts.find((one) => one.id === part.id);
  const load = report.loads.find((one) => one.id === part.id);
  const findings = report.findings.filter((one) => one.subject === part.id);
  const touching = report.runs.filter((run) => {
    const doc = (plan.runs ?? []).find((one) => one.id === run.id);
    return doc?.start.part === part.id || doc?.finish.part === part.id;
  });
  const set = (field: string, value: unknown) => patch([{ op: "add", path: `/parts/id:${part.id}/${field}`, value }]);
  const held = part as Record<string, unknown>;
  const places = [["", "no place"] as const, ...(plan.places ?? []).map((one) => [one.id, one.name] as const)];
  const keep = () => {
    const fields = Object.fromEntries(Object.entries(held).filter(([name, value]) => !["id", "tag", "place", "maker"].includes(name) && value !== null));
    void answered(client.POST("/api/parts", { body: { name: part.name, note: "", part: fields } })).then(
      () => {
        toast.success(`${part.name} is in the library`);
        void cache.invalidateQueries({ queryKey: partsQuery.queryKey });
      },
      (error: Error) => toast.error("Not kept", { description: error.message }),
    );
  };
  return (
    <div className="space-y-5">
      <FindingsHere findings={findings} />
      <p className="text-sm text-soft">
        {KIND[part.kind] ?? part.kind}
        {shown && part.kind !== "battery" && (
          <>
            {" "}
            · passes <Figure workingKey={`${part.id}.through_a`} text={amps(shown.through_a)} label="What passes it" /> of {amps(shown.connected_a)} connected
            {shown.rated_a !== null && ` · rated ${amps(shown.rated_a)}`}
            {shown.guarded_by !== null && ` · guarded by ${amps(shown.guard_a)} in ${shown.guarded_by}`}
            {shown.resistance_ohm > 0 && ` · ${milliohms(shown.resistance_ohm)}`}
          </>
        )}
        {load && ` · ${volts(load.worst.voltage_v)} arrive · ${percent(load.worst.conductor_drop_frac)} lost in the conductors, ${percent(load.worst.drop_frac)} in all`}
        {shown?.shunt_mv != null && ` · shows ${number(shown.shunt_mv, 1)} mV`}
        {shown !== undefined && shown.positions.length > 0 && ` · ${shown.positions.join("; ")}`}
      </p>
      <Changed />
      <div className="grid grid-cols-2 gap-3">
        <TextField label="Name" value={part.name} onCommit={(text) => set("name", text)} />
        <Choice label="Place" value={part.place ?? ""} options={places} onChange={(value) => set("place", value === "" ? null : value)} />
        {(FIELDS[part.kind] ?? []).map((field) =>
          field.type === "choice" ? (
            <Choice key={field.name} label={field.label} value={String(held[field.name] ?? "")} options={field.options} onChange={(value) => set(field.name, value === "" ? null : value)} />
          ) : field.type === "check" ? (
            <Check key={field.name} label={field.label} checked={held[field.name] === true} onChange={(on) => set(field.name, on)} />
          ) : (
            <NumberField key={field.name} label={field.label} percent={field.percent ?? false} value={held[field.name] as number | null} onCommit={(value) => set(field.name, value)} />
          ),
        )}
      </div>
      {part.kind === "load" && part.device === "inverter" && <InverterFields part={part} onSet={set} />}
      {part.kind === "load" && part.device === "inverter" && <AcList part={part} onSet={set} />}
      {touching.length > 0 && (
        <div>
          <h3 className="mb-1 text-sm font-semibold">Runs on it</h3>
          <ul className="flex flex-wrap gap-1">
            {touching.map((run) => (
              <li key={run.id}>
                <button type="button" className="min-h-11 px-1" aria-label={`Open run ${run.tag}`} onClick={() => goTo(run.id)}>
                  <Sleeve tag={run.tag} colour={plan.wire_colours?.positive ?? "red"} />
                </button>
              </li>
            ))}
          </ul>
        </div>
      )}
      {load && load.circuit !== null && <Picture kind="pinch" subject={part.id} />}
      <div className="flex flex-wrap gap-2 border-t border-line pt-3">
        <Button look="main" onClick={() => setFeeding("feed")}>
          <Plus size={18} /> Feed a part from here
        </Button>
        <Button onClick={() => setFeeding("connect")}>Run to another part</Button>
        {MOVES.has(part.kind) && (plan.channels ?? []).length > 0 && (
          <Button onClick={() => setMoving(true)}>
            <MapPin size={18} /> Best place for it
          </Button>
        )}
        <Button onClick={keep}>
          <BookmarkPlus size={18} /> Keep in the library
        </Button>
        <Button
          onClick={() => {
            onGone();
            void edit([{ op: "delete_part", part: part.id }]);
          }}
        >
          <Trash2 size={18} /> Remove it with its runs
        </Button>
      </div>
      <BestPlaces part={part} open={moving} onClose={() => setMoving(false)} />
      <FeedForm key={feeding} from={part} mode={feeding} onClose={() => setFeeding(null)} />
    </div>
  );
}
