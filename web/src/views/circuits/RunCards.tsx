// A run a card, as it is read in the van: tag, what it feeds, size, fuse, length, and by which way.
import type { RunReport } from "../../api/client";
import { guessed, percent } from "../../parts/format";
import { runFigures, usePlan } from "../../parts/plan";
import { Sleeve } from "../../parts/Sleeve";
import { Verdict, type Grade } from "../../parts/Verdict";
import type { Group } from "./grouping";
import { fuseText } from "./fuseText";

function Card({ run, onPick }: { run: RunReport; onPick: () => void }) {
  const { envelope, stateId } = usePlan();
  const units = envelope.plan.units ?? "metric";
  const now = runFigures(run, stateId);
  const size = run.parallel > 1 ? `${run.parallel} × ${run.wire.label}` : run.wire.label;
  const fuse = run.fuse === null && !run.protected_by ? "no fuse" : fuseText(run);
  return (
    <button type="button" className="flex w-full flex-col gap-1 border border-line bg-sheet p-3 text-left" onClick={onPick}>
      <span className="flex w-full items-center gap-2">
        <Sleeve tag={run.tag} colour={envelope.plan.wire_colours?.positive ?? "red"} quiet={!run.fed} />
        <b className="grow">{run.name || run.finish_label}</b>
        <Verdict grade={run.verdict as Grade} word={run.verdict !== "good"} />
      </span>
      <span className="font-mono">
        {size} · {fuse} · {guessed(run.length_m, run.length_guessed, units)}
      </span>
      <span className="text-sm text-soft">
        from {run.start_label}
        {run.legs !== "both" && `, ${run.legs} only`} · {run.spare ? "spare" : `${percent(now.conductor_drop_to_end_frac)} to its end`}
      </span>
      {run.way && <span className="text-sm text-soft">{run.way.missing === "" ? run.way.through || "stays at its place" : `no way: ${run.way.missing}`}</span>}
    </button>
  );
}

export function RunCards({ groups, onPick }: { groups: Group[]; onPick: (id: string) => void }) {
  return (
    <div className="space-y-4">
      {groups.map((group) => (
        <section key={group.name} aria-label={group.name || "Runs as cards"}>
          {group.name !== "" && (
            <h3 className="pb-1 text-sm font-semibold">
              {group.name} <span className="font-normal text-soft">{group.about}</span>
            </h3>
          )}
          <ul className="space-y-2">
            {group.runs.map((run) => (
              <li key={run.id} id={`run-${run.id}`}>
                <Card run={run} onPick={() => onPick(run.id)} />
              </li>
            ))}
          </ul>
        </section>
      ))}
    </div>
  );
}
