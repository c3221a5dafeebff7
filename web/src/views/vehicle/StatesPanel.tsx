// Operating states: what is on at the same time. Shared wires are sized for the worst of them.
import { Plus, Trash2 } from "lucide-react";
import type { Load } from "../../api/client";
import { Button } from "../../parts/Button";
import { Check, TextField } from "../../parts/Labelled";
import { usePlan } from "../../parts/plan";
import { freeId } from "./ZonesPanel";

export function StatesPanel() {
  const { envelope, patch } = usePlan();
  const states = envelope.plan.states ?? [];
  const loads = (envelope.plan.parts ?? []).filter((part): part is Load => part.kind === "load");
  const set = (path: string, value: unknown) => patch([{ op: "add", path, value }]);
  return (
    <>
      <h3 className="pt-2 text-lg font-bold">Operating states</h3>
      <p className="text-sm text-soft">Which loads can be on together. Every shared wire is sized for its worst state.</p>
      <ul className="space-y-2">
        {states.map((state, index) => {
          const off = state.off ?? [];
          return (
            <li key={state.id} className="border border-line bg-sheet p-2">
              <div className="grid grid-cols-[1fr_auto_auto] items-end gap-2">
                <TextField label="State" value={state.name} onCommit={(text) => set(`/states/${index}/name`, text)} />
                <Check label="key on" checked={state.key_on ?? true} onChange={(on) => set(`/states/${index}/key_on`, on)} />
                <Button look="quiet" aria-label={`Delete state ${state.name}`} disabled={states.length === 1} onClick={() => void patch([{ op: "remove", path: `/states/${index}` }])}>
                  <Trash2 size={18} />
                </Button>
              </div>
              <details className="mt-1">
                <summary className="flex min-h-11 cursor-pointer items-center text-sm">
                  {off.length === 0 ? "All loads on" : `Switched off: ${off.length} of ${loads.length}`}
                </summary>
                <ul className="grid gap-x-3 sm:grid-cols-2">
                  {loads.map((load) => (
                    <li key={load.id}>
                      <Check
                        label={`${load.name} on`}
                        checked={!off.includes(load.id)}
                        onChange={(on) => set(`/states/${index}/off`, on ? off.filter((one) => one !== load.id) : [...off, load.id])}
                      />
                    </li>
                  ))}
                </ul>
              </details>
            </li>
          );
        })}
      </ul>
      <Button onClick={() => void set("/states/-", { id: freeId("s", states.map((one) => one.id)), name: "New state" })}>
        <Plus size={18} /> Add a state
      </Button>
    </>
  );
}
