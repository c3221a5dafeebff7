// The battery and the fuse blocks: what the runs hang on.
import { Plus, Trash2 } from "lucide-react";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Ask } from "../../parts/Ask";
import { Button } from "../../parts/Button";
import { amps, typed } from "../../parts/format";
import { Choice, TextField } from "../../parts/Labelled";
import { usePlan } from "../../parts/plan";

const CHEMISTRY = [
  ["lfp", "lithium (LFP)"],
  ["agm", "AGM lead"],
  ["gel", "gel lead"],
  ["flooded", "flooded lead"],
] as const;

export function Sources() {
  const { envelope, edit, patch } = usePlan();
  const { plan, report } = envelope;
  const parts = plan.parts ?? [];
  const [adding, setAdding] = useState(false);
  const [opened, setOpened] = useState<string | null>(null);
  const [fresh, setFresh] = useState({ name: "", fed: "", length: "", ways: "8" });
  const holders = parts.filter((part) => part.kind !== "load");
  const part = holders.find((one) => one.id === opened);
  const at = parts.findIndex((one) => one.id === opened);
  const set = (field: string, value: unknown) => patch([{ op: "add", path: `/parts/${at}/${field}`, value }]);
  const number = (text: string) => (text.trim() === "" ? null : Number(text.replace(",", ".")));
  const block = (id: string): Schemas["BlockReport"] | undefined => report.blocks.find((one) => one.id === id);
  const places = [["", "no place"] as const, ...(plan.places ?? []).map((one) => [one.id, one.name] as const)];
  return (
    <div className="mb-3 flex flex-wrap gap-2">
      {holders.map((one) => {
        const figures = block(one.id);
        return (
          <button key={one.id} type="button" onClick={() => setOpened(one.id)} className="min-h-11 border border-line bg-sheet px-3 py-1 text-left hover:bg-zinc">
            <span className="font-semibold">{one.name}</span>{" "}
            <span className="text-sm text-soft">
              {one.kind === "battery" ? `${typed(one.capacity_ah)} Ah ${CHEMISTRY.find(([id]) => id === one.chemistry)?.[1] ?? ""}` : figures ? `${figures.ways_used} of ${figures.ways} ways · ${amps(figures.design_current_a)}` : ""}
            </span>
          </button>
        );
      })}
      <Button
        onClick={() => {
          setFresh({ name: "", fed: holders[0]?.id ?? "", length: "", ways: "8" });
          setAdding(true);
        }}
      >
        <Plus size={18} /> Add a fuse block
      </Button>
      <Ask
        open={adding}
        title="Feed a new fuse block"
        about="A feeder runs to it from the battery or from another block, fused at its fed end."
        yes="Add it"
        disabled={fresh.name.trim() === "" || fresh.length.trim() === "" || fresh.fed === ""}
        onYes={() =>
          void edit([{ op: "add_block", name: fresh.name, fed_from: fresh.fed, length: fresh.length, ways: Number(fresh.ways), confirmed: false }]).then(
            (done) => done && setAdding(false),
          )
        }
        onClose={() => setAdding(false)}
      >
        <label className="block">
          <span className="mb-1 block text-sm font-semibold">Name</span>
          <input className="field" autoFocus value={fresh.name} onChange={(event) => setFresh({ ...fresh, name: event.target.value })} />
        </label>
        <Choice label="Fed from" value={fresh.fed} options={holders.map((one) => [one.id, one.name] as const)} onChange={(fed) => setFresh({ ...fresh, fed })} />
        <label className="block">
          <span className="mb-1 block text-sm font-semibold">Length of the feeder, one way</span>
          <input className="field" placeholder={plan.units === "us" ? "8 ft" : "2.5 m"} value={fresh.length} onChange={(event) => setFresh({ ...fresh, length: event.target.value })} />
        </label>
        <label className="block">
          <span className="mb-1 block text-sm font-semibold">Ways</span>
          <input className="field" inputMode="numeric" value={fresh.ways} onChange={(event) => setFresh({ ...fresh, ways: event.target.value })} />
        </label>
      </Ask>
      <Ask open={part !== undefined} title={part?.name ?? ""} yes="Done" onYes={() => setOpened(null)} onClose={() => setOpened(null)}>
        {part && (
          <>
            <TextField label="Name" value={part.name} onCommit={(text) => set("name", text)} />
            <Choice label="Place" value={part.place ?? ""} options={places} onChange={(value) => set("place", value === "" ? null : value)} />
            {part.kind === "battery" && (
              <>
                <TextField label="Capacity, Ah" inputMode="decimal" value={typed(part.capacity_ah)} onCommit={(text) => set("capacity_ah", number(text))} />
                <Choice label="Chemistry" value={part.chemistry ?? "lfp"} options={CHEMISTRY} onChange={(value) => set("chemistry", value)} />
              </>
            )}
            {part.kind === "fuse_block" && (
              <>
                <TextField label="Ways" inputMode="decimal" value={String(part.ways ?? 12)} onCommit={(text) => set("ways", number(text))} />
                <TextField label="Greatest fuse a way takes, A" inputMode="decimal" value={typed(part.way_limit_a)} onCommit={(text) => set("way_limit_a", number(text))} />
                <TextField label="Greatest current of the block, A" inputMode="decimal" value={typed(part.total_limit_a)} onCommit={(text) => set("total_limit_a", number(text))} />
                <Button
                  onClick={() => {
                    setOpened(null);
                    void edit([{ op: "delete_part", part: part.id }]);
                  }}
                >
                  <Trash2 size={18} /> Take this block out with its runs
                </Button>
              </>
            )}
          </>
        )}
      </Ask>
    </div>
  );
}
