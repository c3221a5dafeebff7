// One question after another of a skill: answered, judged with its working, and the next.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { toast } from "sonner";
import type { Schemas } from "../../api/client";
import { anySeed, answer, drillQuery, standingQuery, useLearner } from "../../api/school";
import { Button } from "../../parts/Button";
import { Ticked } from "../../parts/Checkbox";
import { TextField } from "../../parts/Labelled";
import { PlainTable } from "../../parts/PlainTable";
import { PageHead } from "../../parts/PageHead";
import { WithTerms } from "../../parts/Term";
import { Verdict } from "../../parts/Verdict";
import type { Theme } from "../../parts/theme";

type Question = Schemas["Question"];

function Judged({ done }: { done: Schemas["Answered"] }) {
  const { judged } = done;
  return (
    <div role="status" className={`space-y-2 border-l-8 p-3 ${judged.right ? "border-good bg-sheet" : "border-stop bg-stop-wash"}`}>
      <p className="text-lg font-bold">
        <Verdict grade={judged.right ? "good" : "stop"} word={false} /> {judged.right ? "Right" : `It is ${judged.answer}`}
      </p>
      {judged.mistake !== "" && <p className="font-semibold">{judged.mistake}</p>}
      <ol className="list-decimal pl-6">
        {judged.working.map((one) => (
          <li key={one}>
            <WithTerms text={one} />
          </li>
        ))}
      </ol>
      {done.schools.length > 0 && (
        <dl className="text-sm">
          <dt className="font-semibold">The schools disagree here</dt>
          {done.schools.map(({ label, answer: text }) => (
            <dd key={label}>
              {label}: <b>{text}</b>
            </dd>
          ))}
        </dl>
      )}
      {done.level > done.level_before && <p className="font-bold">Level {done.level}.</p>}
      {done.level < done.level_before && <p>Back to level {done.level}, to be sure of it.</p>}
      {!done.counted && <p className="text-sm text-soft">You have answered this one before: it does not count again.</p>}
    </div>
  );
}

/** What a drawing says of itself, for those who can't see it. */
const drawn = (svg: string) => /<title>(.*?)<\/title>/.exec(svg)?.[1] ?? "";

export function DrillView({ theme, onTheme }: { theme: Theme; onTheme: () => void }) {
  const { skill = "" } = useParams();
  const [id] = useLearner();
  const [seed, setSeed] = useState(anySeed);
  const [text, setText] = useState("");
  const [chosen, setChosen] = useState<string[]>([]);
  const cache = useQueryClient();
  const { data: question, error } = useQuery({ ...drillQuery(id ?? 0, skill, seed), enabled: id !== null });
  const judge = useMutation({
    mutationFn: (asked: Question) => answer(id ?? 0, { skill, level: asked.level, seed, given: asked.kind === "number" ? [text] : chosen }),
    onSuccess: () => void cache.invalidateQueries({ queryKey: standingQuery(id ?? 0).queryKey }),
    onError: (problem) => toast.error("Not judged", { description: problem.message }),
  });
  const next = () => {
    judge.reset();
    setText("");
    setChosen([]);
    setSeed(anySeed());
  };
  const ready = question !== undefined && (question.kind === "number" ? text.trim() !== "" : question.kind === "several" || chosen.length === 1);
  return (
    <div className="min-h-dvh">
      <PageHead title={question?.title ?? "School"} theme={theme} onTheme={onTheme} />
      <main className="mx-auto max-w-2xl space-y-4 p-4">
        <p className="flex flex-wrap gap-4 text-sm text-soft">
          <Link to="/school" className="inline-flex min-h-11 items-center underline">
            School
          </Link>
          {question && (
            <span className="self-center">
              Level {question.level} of 4 · {question.practice_label}
            </span>
          )}
        </p>
        {id === null && <p>Say who learns first, in the School.</p>}
        {error && <p role="alert">{error.message}</p>}
        {question && (
          <form
            className="space-y-4"
            onSubmit={(event) => {
              event.preventDefault();
              if (judge.data !== undefined) next();
              else if (ready) judge.mutate(question);
            }}
          >
            <h2 className="text-xl leading-7 font-bold">{question.question}</h2>
            {question.picture !== "" && <img src={`data:image/svg+xml;charset=utf-8,${encodeURIComponent(question.picture)}`} alt={drawn(question.picture)} className="w-full max-w-md border border-line" />}
            {question.rows.length > 0 && <PlainTable title="What is known" columns={question.columns} rows={question.rows} />}
            {question.kind === "number" && <TextField key={seed} label={`Answer, ${question.unit}`} inputMode="decimal" keys={[]} value={text} onCommit={setText} onText={setText} />}
            {question.kind === "one" && (
              <fieldset className="space-y-1">
                <legend className="sr-only">Answers</legend>
                {question.choices.map(({ id: value, label }) => (
                  <label key={value} className={`flex min-h-11 cursor-pointer items-center gap-3 border px-3 ${chosen[0] === value ? "border-ink bg-copper-wash font-bold" : "border-line bg-sheet hover:bg-zinc"}`}>
                    <input type="radio" name="answer" className="accent-copper" checked={chosen[0] === value} disabled={judge.data !== undefined} onChange={() => setChosen([value])} />
                    {label}
                  </label>
                ))}
              </fieldset>
            )}
            {question.kind === "several" && (
              <fieldset>
                <legend className="text-sm text-soft">Any number of them</legend>
                {question.choices.map(({ id: value, label }) => (
                  <Ticked key={value} text={label} checked={chosen.includes(value)} onChange={(on) => setChosen(on ? [...chosen, value] : chosen.filter((one) => one !== value))} />
                ))}
              </fieldset>
            )}
            {judge.data && <Judged done={judge.data} />}
            <Button type="submit" look="main" disabled={!ready || judge.isPending}>
              {judge.data === undefined ? "Answer" : "Next question"}
            </Button>
          </form>
        )}
      </main>
    </div>
  );
}
