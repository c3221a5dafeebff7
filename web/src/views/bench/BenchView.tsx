// The bench: set-ups that may burn, one or two side by side, followed through time. Opens by itself or from a run of a plan.
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { Link, useSearchParams } from "react-router";
import { toast } from "sonner";
import { benchChoicesQuery, benchOfRunQuery, courseQuery, type Course, type Happens, type Setup } from "../../api/bench";
import { ProblemError } from "../../api/client";
import { planQuery } from "../../api/plans";
import { useRecord } from "../../api/record";
import { Button } from "../../parts/Button";
import type { Units } from "../../parts/format";
import { OneOf } from "../../parts/OneOf";
import { PageHead } from "../../parts/PageHead";
import { Select } from "../../parts/Select";
import type { Theme } from "../../parts/theme";
import { useNarrow } from "../../parts/useNarrow";
import { CourseCard } from "./CourseCard";
import { SetupForm } from "./SetupForm";
import { Transport } from "./Transport";
import { usePlayback } from "./usePlayback";

const NO_TIMES: readonly number[] = [];

function Refusal({ error }: { error: Error | null }) {
  if (error === null) return null;
  const lines = error instanceof ProblemError ? (error.problem.errors ?? []) : [];
  return (
    <div role="alert" className="border-l-4 border-stop bg-stop-wash p-3">
      <p>{error.message}</p>
      {lines.map((one) => (
        <p key={one.pointer} className="text-sm">
          {one.pointer}: {one.detail}
        </p>
      ))}
    </div>
  );
}

function NoteButton({ planId, runId, course }: { planId: string; runId: string; course: Course }) {
  const { add } = useRecord(planId);
  const note = () => {
    add({ kind: "note", subject: runId, text: `On the bench: ${course.told.setup}. ${course.told.outcome}.` });
    toast.success("Noted in the record");
  };
  return <Button onClick={note}>Note it in the record</Button>;
}

export function BenchView({ theme, onTheme }: { theme: Theme; onTheme: () => void }) {
  const [search, setSearch] = useSearchParams();
  const planId = search.get("plan") ?? "";
  const runId = search.get("run") ?? "";
  const happens: Happens = search.get("happens") === "short" ? "short" : "load";
  const { data: choices } = useQuery(benchChoicesQuery);
  const { data: held } = useQuery({ ...planQuery(planId), enabled: planId !== "" });
  const opened = useQuery(benchOfRunQuery(planId, runId, happens));
  const pair = choices?.pairs.find((one) => one.id === search.get("pair")) ?? choices?.pairs[0];
  const fromPlan = planId !== "" && runId !== "";
  const base = fromPlan ? (opened.data ? [opened.data.setup as Setup] : []) : ((pair?.setups ?? []) as Setup[]);
  // What was changed by hand, as long as it is the same base that it was changed from.
  const key = fromPlan ? `${planId} ${runId} ${happens}` : (pair?.id ?? "");
  const [changed, setChanged] = useState<{ key: string; setups: Setup[] } | null>(null);
  const setups = changed !== null && changed.key === key ? changed.setups : base;
  const put = (next: Setup[]) => setChanged({ key, setups: next });
  const narrow = useNarrow();
  const [end, setEnd] = useState<number | null>(null);
  const [axis, setAxis] = useState<"log" | "straight" | null>(null);
  const { data: fresh, error, isFetching } = useQuery(courseQuery(setups, end, axis, narrow));
  // What is refused takes nothing away: the last course stays until the next one is there.
  const [data, setData] = useState(fresh);
  if (fresh !== undefined && fresh !== data) setData(fresh);
  const play = usePlayback(data?.end_s ?? 1, data?.speed ?? 1);
  const times = data?.courses[0]?.frames.time_s ?? NO_TIMES;
  const frame = play.frameAt(times, play.moment);
  useHotkeys("space", (event) => {
    event.preventDefault();
    play.toggle();
  });
  const units: Units = opened.data?.units ?? "metric";
  const first = setups[0];
  return (
    <div className="flex min-h-dvh flex-col">
      <PageHead title="Bench" theme={theme} onTheme={onTheme} />
      <main className="mx-auto w-full max-w-7xl grow space-y-3 p-4">
        <div className="flex flex-wrap items-end gap-3">
          {held !== undefined && (
            <div className="min-w-48">
              <span className="mb-1 block text-sm font-semibold">Run of {held.plan.job.name}</span>
              <Select
                label="Run of the plan"
                value={runId}
                options={[["", "None: a pair"], ...held.report.runs.map((one): [string, string] => [one.id, `${one.tag} ${one.name || one.finish_label}`])]}
                onChange={(id) => setSearch(id === "" ? { plan: planId } : { plan: planId, run: id, happens })}
              />
            </div>
          )}
          {fromPlan ? (
            <>
              <p className="grow">
                <Link to={`/plan/${planId}/circuits?run=${runId}`} className="inline-flex min-h-11 items-center font-semibold underline">
                  {opened.data ? `${opened.data.tag} of the plan` : "Back to the plan"}
                </Link>
                {opened.data && <span className="block text-sm text-soft">{opened.data.taken.join(" · ")}</span>}
              </p>
              <OneOf
                label="What happens"
                value={happens}
                onChange={(next) => setSearch({ plan: planId, run: runId, happens: next })}
                options={[
                  ["load", "In service"],
                  ["short", "Dead short at its end"],
                ]}
              />
            </>
          ) : (
            <>
              <div className="min-w-64 grow sm:grow-0">
                <span className="mb-1 block text-sm font-semibold" id="begin">
                  Begin with
                </span>
                <Select label="Begin with" value={pair?.id ?? ""} options={(choices?.pairs ?? []).map((one) => [one.id, one.title])} onChange={(id) => setSearch(planId === "" ? { pair: id } : { plan: planId, pair: id })} />
              </div>
              <p className="grow self-center">{pair?.asks}</p>
            </>
          )}
          {first !== undefined && setups.length === 1 && <Button onClick={() => put([first, { ...first, fuse: happens === "short" ? null : first.fuse }])}>Put another beside it</Button>}
          {setups.length === 2 && first !== undefined && fromPlan && <Button onClick={() => put([first])}>Take the second away</Button>}
          {changed !== null && changed.key === key && <Button look="quiet" onClick={() => setChanged(null)}>As it was</Button>}
        </div>
        <Refusal error={opened.error ?? error} />
        {setups.length > 0 && data === undefined && error === null && <p className="text-soft">Following it through time</p>}
        {data !== undefined && (
          <div className={`grid gap-3 ${data.courses.length === 2 ? "lg:grid-cols-2" : ""}`} aria-busy={isFetching}>
            {data.courses.map((course, at) => {
              const setup = setups[at];
              return (
                <CourseCard
                  key={at}
                  course={course}
                  frame={play.frameAt(course.frames.time_s ?? NO_TIMES, play.moment)}
                  title={data.courses.length === 1 ? "Set-up" : at === 0 ? "First set-up" : "Second set-up"}
                  form={
                    choices !== undefined &&
                    setup !== undefined && <SetupForm setup={setup} choices={choices} units={units} onSetup={(next) => put(setups.map((one, index) => (index === at ? next : one)))} />
                  }
                >
                  {fromPlan && <NoteButton planId={planId} runId={runId} course={course} />}
                </CourseCard>
              );
            })}
          </div>
        )}
        <p className="text-sm text-soft">
          Physics of still air by figures from memory; nothing is staged. What burns here has burnt vans: do not try it on a vehicle. Figures for the real one are measured, and local code and the
          maker&apos;s sheet win.
        </p>
      </main>
      {data !== undefined && (
        <Transport
          playing={play.playing}
          onToggle={play.toggle}
          times={times}
          texts={data.courses[0]?.times ?? []}
          frame={frame}
          onFrame={(next) => play.scrub(times[next] ?? 0)}
          pace={play.pace}
          paces={data.speeds}
          onPace={play.setSpeed}
          end={end}
          onEnd={setEnd}
          axis={data.axis}
          onAxis={setAxis}
        />
      )}
    </div>
  );
}
