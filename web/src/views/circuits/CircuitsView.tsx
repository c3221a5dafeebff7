// Everything about the circuit as it is wired: runs, map, states, shorts, parts. The sheet of a run or a part opens over
// any of them.
import { Suspense } from "react";
import { Outlet, useSearchParams } from "react-router";
import { usePlan } from "../../parts/plan";
import { Side } from "../../parts/Side";
import { Sleeve } from "../../parts/Sleeve";
import { Tabs } from "../../parts/Tabs";
import { PartPanel } from "./PartPanel";
import { RunPanel } from "./RunPanel";

const TABS = [
  ["", "Runs"],
  ["map", "Map"],
  ["states", "States"],
  ["shorts", "Short circuits"],
  ["parts", "Parts"],
] as const;

export function CircuitsView() {
  const { envelope } = usePlan();
  const [search, setSearch] = useSearchParams();
  const colour = envelope.plan.wire_colours?.positive ?? "red";
  const run = envelope.report.runs.find((one) => one.id === search.get("run"));
  const part = (envelope.plan.parts ?? []).find((one) => one.id === search.get("part"));
  const close = () =>
    setSearch((before) => {
      const next = new URLSearchParams(before);
      next.delete("run");
      next.delete("part");
      return next;
    });
  const behind = search.get("working") !== null;
  return (
    <section aria-labelledby="circuits-title">
      <Tabs title="Circuits" id="circuits-title" base="circuits" label="Views of the circuit" tabs={TABS}>
        <Suspense fallback={<p className="text-soft">Opening</p>}>
          <Outlet />
        </Suspense>
      </Tabs>
      <Side
        wide
        open={run !== undefined && !behind}
        title={
          run && (
            <span className="flex items-center gap-2">
              <Sleeve tag={run.tag} colour={colour} /> {run.name || run.finish_label}
            </span>
          )
        }
        onClose={close}
      >
        {run && <RunPanel key={run.id} run={run} />}
      </Side>
      <Side
        wide
        open={part !== undefined && run === undefined && !behind}
        title={
          part && (
            <span className="flex items-center gap-2">
              <span className="font-mono text-sm">{part.tag}</span> {part.name}
            </span>
          )
        }
        onClose={close}
      >
        {part && <PartPanel key={part.id} part={part} onGone={close} />}
      </Side>
    </section>
  );
}
