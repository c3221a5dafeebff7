// The order of work: what comes next, phase by phase and place by place, ticked where it is done.
import { useQuery } from "@tanstack/react-query";
import { useSearchParams } from "react-router";
import type { Schemas } from "../../api/client";
import { orderQuery, recordQuery, useRecord, type NewEntry } from "../../api/record";
import { Fold } from "../../parts/Fold";
import { OneOf } from "../../parts/OneOf";
import { usePlan } from "../../parts/plan";
import { WhoField } from "../../parts/WhoField";
import { Progress } from "../../parts/Progress";
import { StepCard } from "./StepCard";

type State = Schemas["StepState"];

const PHASES: readonly (readonly [string, string])[] = [
  ["safe", "Make it dead"],
  ["holes", "Holes"],
  ["mount", "Fasten the parts"],
  ["cut", "Cut and label"],
  ["pull", "Pull"],
  ["crimp", "Ends"],
  ["close", "Before a wall is closed"],
  ["negatives", "Bonds and negatives"],
  ["positives", "Positives, every fuse out"],
  ["shut", "Walls over joints"],
  ["batteries", "Batteries, negative last"],
  ["power_up", "First power-up"],
  ["sun", "Panels, once their controller has its battery"],
  ["at_work", "At work: keys, chargers, load"],
];

const SHOWN = [
  ["open", "Open"],
  ["ready", "Can be done now"],
  ["all", "All"],
] as const;

const WANTED: Record<string, (state: State) => boolean> = {
  open: (state) => state.standing !== "done",
  ready: (state) => state.standing === "ready" || state.standing === "changed",
  all: () => true,
};

// Steps that follow one another at one place stand under its name.
function byPlace(states: State[]): [string, State[]][] {
  const found: [string, State[]][] = [];
  for (const state of states) {
    const last = found[found.length - 1];
    if (last !== undefined && last[0] === state.step.place) last[1].push(state);
    else found.push([state.step.place, [state]]);
  }
  return found;
}

type Readings = Pick<Schemas["OrderAnswer"], "expected" | "judged">;

function PhaseSteps({ states, readings, pending, onAdd }: { states: State[]; readings: Readings; pending: ReadonlySet<string>; onAdd: (entry: NewEntry) => void }) {
  const { goTo } = usePlan();
  return (
    <div className="space-y-3 pb-3">
      {byPlace(states).map(([place, some]) => (
        <div key={`${place} ${some[0]?.step.id ?? ""}`}>
          {place !== "" && <h4 className="font-bold">{place}</h4>}
          <ul className="border border-line bg-sheet">
            {some.map((state) => (
              <StepCard key={state.step.id} state={state} expected={readings.expected[state.step.id]} judged={readings.judged[state.step.id]} pending={pending.has(state.step.id) || pending.has(`#${state.number}`)} onAdd={onAdd} onOpen={goTo} />
            ))}
          </ul>
        </div>
      ))}
    </div>
  );
}

export function OrderTab() {
  const { envelope } = usePlan();
  const [search, setSearch] = useSearchParams();
  const record = useQuery(recordQuery(envelope.plan_id));
  const { data: answer, error } = useQuery(orderQuery(envelope.plan_id, envelope.revision, record.data?.length ?? 0));
  const { onTheWay, add } = useRecord(envelope.plan_id);
  const data = answer?.progress;
  if (error && data === undefined) return <p role="alert" className="border-l-4 border-stop bg-stop-wash p-2">{error.message}</p>;
  if (!data || !answer) return <p className="text-soft">Putting the work in order</p>;
  const pending = new Set(onTheWay.flatMap((one) => (one.kind === "done" ? [one.subject] : one.takes_back ? [`#${one.takes_back}`] : [])));
  const shown = search.get("steps") ?? "open";
  const wanted = WANTED[shown] ?? WANTED["open"] ?? (() => true);
  const every = [...data.steps, ...data.power_up];
  const next = every.find((state) => state.standing === "ready" || state.standing === "changed");
  const show = (value: string) =>
    setSearch((before) => {
      const after = new URLSearchParams(before);
      after.set("steps", value);
      return after;
    });
  return (
    <div className="max-w-4xl space-y-3">
      <div className="flex flex-wrap items-end gap-4">
        <div className="w-56">
          <WhoField label="Who is at work" />
        </div>
        <div className="pb-2">
          <p>
            <b className="font-mono">{data.done}</b> of <b className="font-mono">{data.total}</b> done
          </p>
          <Progress label="Work done" done_frac={data.done / Math.max(1, data.total)} />
        </div>
        <OneOf label="Which steps" value={shown} options={SHOWN} onChange={show} />
      </div>
      {data.amiss.map((one) => (
        <p key={`${one.code} ${one.step}`} className="border-l-4 border-fix bg-fix-wash p-2">
          <b className="font-semibold">{one.what}.</b> {one.mend}
        </p>
      ))}
      {data.gone.length > 0 && (
        <Fold title={`${data.gone.length} done ${data.gone.length === 1 ? "step is" : "steps are"} no longer in the plan`} className="border border-line bg-sheet px-2">
          <ul className="list-disc pb-2 pl-5 text-sm">
            {data.gone.map((one) => (
              <li key={one.number}>
                {one.step}: {one.was}, {one.who}
              </li>
            ))}
          </ul>
        </Fold>
      )}
      {next === undefined && data.done === data.total && <p className="border-l-4 border-good bg-sheet p-2">Everything is ticked. Prove it with a meter before it is handed over.</p>}
      {PHASES.map(([key, name]) => {
        const all = every.filter((state) => state.step.phase === key);
        const some = all.filter(wanted);
        if (all.length === 0) return null;
        const done = all.filter((state) => state.standing === "done").length;
        return (
          <Fold
            key={key}
            open={next?.step.phase === key}
            className="border border-line bg-zinc px-2"
            title={
              <span className="flex grow justify-between gap-3 text-base">
                <b className="font-bold">{name}</b>
                <span className="font-mono">
                  {done} of {all.length}
                </span>
              </span>
            }
          >
            {some.length > 0 ? <PhaseSteps states={some} readings={answer} pending={pending} onAdd={add} /> : <p className="pb-2 text-soft">{done === all.length ? "All done." : "None of these now."}</p>}
          </Fold>
        );
      })}
      <p className="text-sm text-soft">Torques, minutes and the order itself are common practice; makers' sheets, local code and licensed people come first.</p>
    </div>
  );
}
