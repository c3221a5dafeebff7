// The school: who learns, what to do in the next ten minutes, skills, cases.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { toast } from "sonner";
import { addLearner, anySeed, beginCase, learnersQuery, setPractice, standingQuery, useLearner, type Kind, type Standing } from "../../api/school";
import { Button } from "../../parts/Button";
import { Choice, TextField } from "../../parts/Labelled";
import { NumberField } from "../../parts/NumberField";
import { OneOf } from "../../parts/OneOf";
import { PageHead } from "../../parts/PageHead";
import { plainPercent } from "../../parts/format";
import type { Theme } from "../../parts/theme";

const SETS = [
  ["metric_caravan", "Metric caravan"],
  ["small_craft_us", "Small craft, US"],
  ["overland_bs", "Overland, B&S"],
  ["vehicle_accessory", "Vehicle accessory"],
] as const;
export const KIND: Record<Kind, string> = { mistake: "Find the mistake", fault: "Find the fault", letter: "Plan it" };
const LEVELS = [
  ["1", "1"],
  ["2", "2"],
  ["3", "3"],
  ["4", "4"],
] as const;

function WhoLearns({ onLearner }: { onLearner: (id: number) => void }) {
  const { data: learners = [] } = useQuery(learnersQuery);
  const [name, setName] = useState("");
  const [practice, setSet] = useState<string>("metric_caravan");
  const cache = useQueryClient();
  const add = useMutation({
    mutationFn: () => addLearner(name, practice),
    onSuccess: (made) => {
      void cache.invalidateQueries({ queryKey: learnersQuery.queryKey });
      onLearner(made.learner_id);
    },
    onError: (error) => toast.error("Not added", { description: error.message }),
  });
  return (
    <section aria-labelledby="who" className="max-w-xl space-y-3 border border-line bg-sheet p-4">
      <h2 id="who" className="text-lg font-bold">
        Who learns?
      </h2>
      {learners.length > 0 && (
        <div className="flex flex-wrap gap-2">
          {learners.map((one) => (
            <Button key={one.learner_id} onClick={() => onLearner(one.learner_id)}>
              {one.name}
            </Button>
          ))}
        </div>
      )}
      <form
        className="grid gap-2 sm:grid-cols-[1fr_1fr_auto] sm:items-end"
        onSubmit={(event) => {
          event.preventDefault();
          if (name.trim() !== "") add.mutate();
        }}
      >
        <TextField label="Your name" value={name} onCommit={setName} onText={setName} />
        <Choice label="Practice set" value={practice} options={SETS} onChange={(next) => (setSet(next), true)} />
        <Button type="submit" look="main" disabled={name.trim() === ""}>
          Begin
        </Button>
      </form>
      <p className="text-sm text-soft">A name is enough. What you do stays on this machine.</p>
    </section>
  );
}

function Begin({ id }: { id: number }) {
  const [kind, setKind] = useState<Kind>("mistake");
  const [level, setLevel] = useState<"1" | "2" | "3" | "4">("1");
  const [seed, setSeed] = useState(anySeed);
  const navigate = useNavigate();
  const begin = useMutation({
    mutationFn: () => beginCase(id, { kind, level: Number(level), seed }),
    onSuccess: (made) => void navigate(`/school/case/${made.card.case_id}`),
    onError: (error) => toast.error("Not begun", { description: error.message }),
  });
  return (
    <div className="flex flex-wrap items-end gap-3">
      <OneOf label="Kind of case" value={kind} onChange={setKind} options={Object.entries(KIND) as [Kind, string][]} />
      <div>
        <span className="mb-1 block text-sm font-semibold">Level</span>
        <OneOf label="Level" value={level} onChange={setLevel} options={LEVELS} />
      </div>
      <div className="w-36">
        <NumberField label="Case number" value={seed} onCommit={(value) => typeof value === "number" && Number.isInteger(value) && value >= 0 && setSeed(value)} />
      </div>
      <Button look="main" disabled={begin.isPending} onClick={() => begin.mutate()}>
        {begin.isPending ? "Breaking a van" : "Begin"}
      </Button>
      <p className="basis-full text-sm text-soft">The same kind, level and number are the same case for everybody: say them to one another.</p>
    </div>
  );
}

function Skills({ standing }: { standing: Standing }) {
  return (
    <ul className="grid gap-2 sm:grid-cols-2 lg:grid-cols-3">
      {standing.skills.map((one) => (
        <li key={one.skill} className="flex flex-col border border-line bg-sheet p-3">
          <p className="font-bold">{one.title}</p>
          <p className="grow text-sm text-soft">{one.about}</p>
          <p className="text-sm">
            Level {one.level} of 4
            {one.answers > 0 && (
              <>
                {" "}
                · {one.rights} of {one.answers} right · {plainPercent(Number(one.kept_frac.toFixed(2)))} % still there
              </>
            )}
          </p>
          <Link to={`/school/drill/${one.skill}`} className="mt-1 inline-flex min-h-11 items-center justify-center border border-line px-3 font-medium hover:bg-zinc">
            {one.answers === 0 ? "Begin" : one.due ? "Train: due" : "Train"}
            <span className="sr-only"> {one.title}</span>
          </Link>
        </li>
      ))}
    </ul>
  );
}

function Board({ standing, onOther }: { standing: Standing; onOther: () => void }) {
  const { learner, todo, slips, cases } = standing;
  const cache = useQueryClient();
  const navigate = useNavigate();
  const open = cases.find((one) => one.done_at === null);
  const change = async (practice: string) => {
    await setPractice(learner.learner_id, practice);
    await cache.invalidateQueries({ queryKey: ["standing", learner.learner_id] });
    return true;
  };
  return (
    <div className="space-y-6">
      <div className="flex flex-wrap items-end gap-3">
        <p className="grow text-xl font-bold">{learner.name}</p>
        <div className="w-56">
          <Choice label="Practice set" value={learner.practice} options={SETS} onChange={change} />
        </div>
        <Button onClick={onOther}>Somebody else</Button>
      </div>
      <section aria-labelledby="next" className="border-l-8 border-copper bg-sheet p-3">
        <h2 id="next" className="mb-2 text-lg font-bold">
          The next ten minutes
        </h2>
        <ol className="flex flex-wrap gap-2">
          {todo.map((one) => (
            <li key={`${one.kind} ${one.skill}`}>
              <Button
                onClick={() =>
                  void navigate(one.kind === "drill" ? `/school/drill/${one.skill}` : one.kind === "case" && open ? `/school/case/${open.case_id}` : "#cases")
                }
              >
                <b>{one.title}</b> <span className="text-sm text-soft">{one.why}</span>
              </Button>
            </li>
          ))}
        </ol>
      </section>
      <section aria-labelledby="skills">
        <h2 id="skills" className="mb-2 text-lg font-bold">
          Skills
        </h2>
        <Skills standing={standing} />
      </section>
      <section aria-labelledby="cases" className="space-y-3">
        <h2 id="cases" className="text-lg font-bold">
          Cases
        </h2>
        <Begin id={learner.learner_id} />
        {cases.length === 0 ? (
          <p className="border border-dashed border-line bg-sheet p-6 text-center">No case yet. Find the mistake, level 1, takes some six minutes.</p>
        ) : (
          <ul className="divide-y divide-line border border-line bg-sheet">
            {cases.map((one) => (
              <li key={one.case_id}>
                <Link to={`/school/case/${one.case_id}`} className="flex min-h-12 flex-wrap items-center gap-x-4 px-3 hover:bg-zinc">
                  <b className="grow">
                    {KIND[one.kind]} {one.seed}
                  </b>
                  <span>level {one.level}</span>
                  <span className="min-w-24 text-right">{one.points === null ? "open" : `${one.points} of 100`}</span>
                </Link>
              </li>
            ))}
          </ul>
        )}
      </section>
      {slips.length > 0 && (
        <section aria-labelledby="slips">
          <h2 id="slips" className="mb-1 text-lg font-bold">
            What you do wrong most often
          </h2>
          <ul className="list-disc pl-6">
            {slips.map((one) => (
              <li key={`${one.skill} ${one.mistake}`}>
                {one.mistake} <span className="text-soft">× {one.times}</span>
              </li>
            ))}
          </ul>
        </section>
      )}
      <p className="flex flex-wrap gap-4">
        <a className="inline-flex min-h-11 items-center underline" href={`/api/school/learners/${learner.learner_id}/sheet.pdf`} target="_blank" rel="noreferrer">
          Teacher&apos;s sheet
        </a>
        <a className="inline-flex min-h-11 items-center underline" href={`/api/school/learners/${learner.learner_id}/certificate.pdf`} target="_blank" rel="noreferrer">
          Certificate of what was done
        </a>
      </p>
    </div>
  );
}

export function SchoolView({ theme, onTheme }: { theme: Theme; onTheme: () => void }) {
  const [id, setId] = useLearner();
  const { data, error, isPending } = useQuery({ ...standingQuery(id ?? 0), enabled: id !== null });
  return (
    <div className="min-h-dvh">
      <PageHead title="School" theme={theme} onTheme={onTheme} />
      <main className="mx-auto max-w-6xl p-4">
        {id === null || error !== null ? <WhoLearns onLearner={setId} /> : isPending ? <p className="text-soft">Opening</p> : <Board standing={data} onOther={() => setId(null)} />}
      </main>
    </div>
  );
}
