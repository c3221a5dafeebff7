// One case: what is told, the way to the van, what was marked or read, handing in, and how it was graded.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { toast } from "sonner";
import { caseQuery, handIn } from "../../api/school";
import { Button } from "../../parts/Button";
import { PageHead } from "../../parts/PageHead";
import type { Theme } from "../../parts/theme";
import { FaultBench } from "./FaultBench";
import { Results } from "./Results";

export function CaseView({ theme, onTheme }: { theme: Theme; onTheme: () => void }) {
  const { caseId = "" } = useParams();
  const { data: found, error } = useQuery(caseQuery(caseId));
  const cache = useQueryClient();
  const give = useMutation({
    mutationFn: () => handIn(caseId, null),
    onSuccess: (made) => {
      cache.setQueryData(caseQuery(caseId).queryKey, made);
      void cache.invalidateQueries({ queryKey: ["standing"] });
      void cache.invalidateQueries({ queryKey: ["plan", made.card.plan_id] });
    },
    onError: (problem) => toast.error("Not handed in", { description: problem.message }),
  });
  const open = found !== undefined && found.card.done_at === null;
  return (
    <div className="min-h-dvh">
      <PageHead title={found?.title ?? "School"} theme={theme} onTheme={onTheme} />
      <main className="mx-auto max-w-5xl space-y-4 p-4">
        <p className="flex flex-wrap gap-4 text-sm text-soft">
          <Link to="/school" className="inline-flex min-h-11 items-center underline">
            School
          </Link>
          {found && (
            <span className="self-center">
              {found.learner.name} · case {found.card.seed}, level {found.card.level}
            </span>
          )}
        </p>
        {error && <p role="alert">{error.message}</p>}
        {found && (
          <>
            <section aria-label="What is told" className="border-l-8 border-copper bg-sheet p-3 text-lg">
              {found.told.map((one) => (
                <p key={one}>{one}</p>
              ))}
            </section>
            <Results found={found} />
            {found.card.kind === "fault" && open && <FaultBench found={found} />}
            {found.card.plan_id !== null && (
              <section aria-label="The van" className="space-y-3">
                <p className="flex flex-wrap items-center gap-2">
                  <Link to={`/plan/${found.card.plan_id}/${found.card.kind === "mistake" ? "circuits/map" : "loads"}`} className="inline-flex min-h-11 items-center border border-ink bg-ink px-3 font-medium text-sheet">
                    {found.card.kind === "mistake" ? (open ? "Walk the van" : "See the van") : open ? "Plan it" : "See the plan"}
                  </Link>
                  {open && (
                    <Button disabled={give.isPending} onClick={() => give.mutate()}>
                      {give.isPending ? "Grading" : "Hand in"}
                    </Button>
                  )}
                </p>
                {found.card.kind === "mistake" && open && (
                  <>
                    <p className="text-soft">Walk map, runs, layout and papers with Checks hidden. Mark what is wrong, then mend it in the van: both count.</p>
                    <p>
                      {found.marks.length === 0 ? "Nothing marked yet." : `${found.marks.length} marked: ${found.marks.map((one) => one.code).join(", ")}`}
                    </p>
                  </>
                )}
              </section>
            )}
          </>
        )}
      </main>
    </div>
  );
}
