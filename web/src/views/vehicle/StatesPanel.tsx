// Operating states: what is closed and what is on at the same time. Shared wires are sized for the worst of them.
import { Plus, Trash2 } from "lucide-react";
import type { Load, Schemas } from "../../api/client";
import { Button } from "../../parts/Button";
import { Fold } from "../../parts/Fold";
import { Check, Choice, TextField } from "../../parts/Labelled";
import { NumberField } from "../../parts/NumberField";
import { usePlan } from "../../parts/plan";
import { Switch } from "../../parts/Switch";
import { freeId } from "./ZonesPanel";

type State = Schemas["State"];
type SwitchPart = Schemas["Switch"];

const POSITIONS = [
  ["a", "first"],
  ["b", "second"],
  ["off", "off"],
] as const;

export function StatesPanel() {
  const { envelope, patch } = usePlan();
  const states = envelope.plan.states ?? [];
  const parts = envelope.plan.parts ?? [];
  const loads = parts.filter((part): part is Load => part.kind === "load");
  const switches = parts.filter((part): part is SwitchPart => part.kind === "switch");
  const fused = (envelope.plan.runs ?? []).filter((run) => run.fuse_at_start || run.fuse_at_finish);
  const set = (path: string, value: unknown) => patch([{ op: "add", path, value }]);
  return (
    <>
      <h3 className="pt-2 text-lg font-bold">Operating states</h3>
      <p className="text-sm text-soft">What is closed and what is on together. Every shared wire is sized for its worst state; the state board shows what is live.</p>
      <ul className="space-y-2">
        {states.map((state) => (
          <li key={state.id} className="border border-line bg-sheet p-2">
            <div className="grid grid-cols-[1fr_auto] items-end gap-2">
              <TextField label="State" value={state.name} onCommit={(text) => set(`/states/id:${state.id}/name`, text)} />
              <Button look="quiet" aria-label={`Delete state ${state.name}`} disabled={states.length === 1} onClick={() => void patch([{ op: "remove", path: `/states/id:${state.id}` }])}>
                <Trash2 size={18} />
              </Button>
            </div>
            <div className="flex flex-wrap gap-x-4">
              <Check label="key on" checked={state.key_on ?? true} onChange={(on) => set(`/states/id:${state.id}/key_on`, on)} />
              <Check label="engine running" checked={state.engine_on ?? false} onChange={(on) => set(`/states/id:${state.id}/engine_on`, on)} />
              <Check label="panels in full sun" checked={state.sun ?? false} onChange={(on) => set(`/states/id:${state.id}/sun`, on)} />
              <Check label="on shore" checked={state.shore_on ?? false} onChange={(on) => set(`/states/id:${state.id}/shore_on`, on)} />
            </div>
            <Loads state={state} loads={loads} />
            {(switches.length > 0 || fused.length > 0) && <Contacts state={state} switches={switches} fused={fused.map((run) => [run.id, run.tag] as const)} />}
          </li>
        ))}
      </ul>
      <Button onClick={() => void set("/states/-", { id: freeId("s", states.map((one) => one.id)), name: "New state" })}>
        <Plus size={18} /> Add a state
      </Button>
    </>
  );
}

function Loads({ state, loads }: { state: State; loads: Load[] }) {
  const { patch } = usePlan();
  const off = state.off ?? [];
  const duty = state.duty ?? [];
  const path = `/states/id:${state.id}`;
  const share = (id: string) => duty.find((one) => one.load === id)?.share ?? 1;
  const setShare = (id: string, value: number | string | null) => {
    const held = duty.some((one) => one.load === id);
    if (value === null || value === 1) return held && patch([{ op: "remove", path: `${path}/duty/load:${id}` }]);
    return patch([held ? { op: "replace", path: `${path}/duty/load:${id}/share`, value } : { op: "add", path: `${path}/duty/-`, value: { load: id, share: value } }]);
  };
  return (
    <Fold className="mt-1" title={off.length === 0 ? "All loads on" : `Switched off: ${off.length} of ${loads.length}`}>
      <ul className="grid gap-x-3 sm:grid-cols-2">
        {loads.map((load) => (
          <li key={load.id} className="flex items-end gap-2">
            <span className="grow">
              <Check
                label={`${load.name} on`}
                checked={!off.includes(load.id)}
                onChange={(on) => patch([on ? { op: "remove", path: `${path}/off/is:${load.id}` } : { op: "add", path: `${path}/off/-`, value: load.id }])}
              />
            </span>
            {!off.includes(load.id) && (
              <span className="w-24">
                <NumberField label="% of the time" percent value={share(load.id)} onCommit={(value) => setShare(load.id, value)} />
              </span>
            )}
          </li>
        ))}
      </ul>
    </Fold>
  );
}

function Contacts(props: { state: State; switches: SwitchPart[]; fused: (readonly [string, string])[] }) {
  const { patch } = usePlan();
  const { state } = props;
  const open = state.open ?? [];
  const modes = state.modes ?? [];
  const path = `/states/id:${state.id}`;
  const toggle = (id: string, closed: boolean) => patch([closed ? { op: "remove", path: `${path}/open/is:${id}` } : { op: "add", path: `${path}/open/-`, value: id }]);
  const turn = (part: string, position: string) =>
    patch([
      modes.some((mode) => mode.part === part)
        ? { op: "replace", path: `${path}/modes/part:${part}/position`, value: position }
        : { op: "add", path: `${path}/modes/-`, value: { part, position } },
    ]);
  return (
    <Fold title={open.length === 0 ? "All switches closed, all fuses in" : `Open: ${open.length}`}>
      <ul className="grid items-end gap-x-3 sm:grid-cols-2">
        {props.switches.map((one) =>
          one.form === "three_position" || one.form === "reversing" ? (
            <li key={one.id}>
              <Choice
                label={`${one.name} stands at`}
                value={modes.find((mode) => mode.part === one.id)?.position ?? "a"}
                options={POSITIONS}
                onChange={(position) => turn(one.id, position)}
              />
            </li>
          ) : (
            <li key={one.id}>
              <Switch text={`${one.name} closed`} checked={!open.includes(one.id)} onChange={(on) => toggle(one.id, on)} />
            </li>
          ),
        )}
        {props.fused.map(([id, tag]) => (
          <li key={id}>
            <Switch text={`Fuse of ${tag} in`} checked={!open.includes(id)} onChange={(on) => toggle(id, on)} />
          </li>
        ))}
      </ul>
    </Fold>
  );
}
