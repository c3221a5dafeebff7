// What was done to the plan, newest first. Any revision can come back; nothing is ever lost.
import { queryOptions, useQuery } from "@tanstack/react-query";
import { answered, client } from "../../api/client";
import { Button } from "../../parts/Button";
import { Fold } from "../../parts/Fold";
import { date } from "../../parts/format";
import { usePlan } from "../../parts/plan";

const historyQuery = (planId: string) =>
  queryOptions({
    queryKey: ["history", planId],
    queryFn: () => answered(client.GET("/api/plans/{plan_id}/history", { params: { path: { plan_id: planId } } })),
  });

const detailQuery = (planId: string, revision: number) =>
  queryOptions({
    queryKey: ["history", planId, revision],
    queryFn: () =>
      answered(client.GET("/api/plans/{plan_id}/history/{revision}", { params: { path: { plan_id: planId, revision } } })),
  });

function Changes({ revision }: { revision: number }) {
  const { envelope } = usePlan();
  const { data } = useQuery(detailQuery(envelope.plan_id, revision));
  if (data === undefined) return <p className="text-soft">Reading</p>;
  return (
    <ul className="mt-1 list-disc pl-5 text-sm">
      {data.changes.length === 0 && <li>The first revision</li>}
      {data.changes.map((line) => (
        <li key={line}>{line}</li>
      ))}
    </ul>
  );
}

export function LogView() {
  const { envelope, restore } = usePlan();
  const { data, error } = useQuery(historyQuery(envelope.plan_id));
  return (
    <section aria-labelledby="log-title" className="max-w-4xl">
      <h2 id="log-title" className="mb-3 text-xl font-bold">
        Log
      </h2>
      {error && <p role="alert">{error.message}</p>}
      <ol className="border border-line bg-sheet">
        {(data ?? []).map((line) => (
          <li key={line.revision} className="flex flex-wrap items-start gap-3 border-b border-line p-2 last:border-b-0">
            <span className="w-10 pt-2.5 text-right font-mono">{line.revision}</span>
            <div className="min-w-0 grow basis-64 pt-2.5">
              <p className="break-words">{line.summary}</p>
              <p className="text-sm text-soft">{date(line.made_at)}</p>
              <Fold title="What changed">
                <Changes revision={line.revision} />
              </Fold>
            </div>
            <Button disabled={line.revision === envelope.revision} onClick={() => void restore(line.revision)}>
              Back to this
            </Button>
          </li>
        ))}
      </ol>
    </section>
  );
}
