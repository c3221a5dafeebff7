// What was done to the plan, newest first, by pages. Any revision can come back and can have a name; nothing is lost.
import { queryOptions, useInfiniteQuery, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Bookmark, FileDown } from "lucide-react";
import { useState } from "react";
import { answered, client, type Schemas } from "../../api/client";
import { namedQuery } from "../../api/plans";
import { Ask } from "../../parts/Ask";
import { Button } from "../../parts/Button";
import { Fold } from "../../parts/Fold";
import { date } from "../../parts/format";
import { usePlan } from "../../parts/plan";

type Line = Schemas["HistoryLine"];
const PAGE = 100;

const detailQuery = (planId: string, revision: number) =>
  queryOptions({
    queryKey: ["history", planId, revision],
    queryFn: () =>
      answered(client.GET("/api/plans/{plan_id}/history/{revision}", { params: { path: { plan_id: planId, revision } } })),
  });

function Changes({ revision }: { revision: number }) {
  const { envelope } = usePlan();
  const { data, error } = useQuery(detailQuery(envelope.plan_id, revision));
  if (error) return <p role="alert">{error.message}</p>;
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

function Entry({ line, onName }: { line: Line; onName: (line: Line) => void }) {
  const { envelope, restore } = usePlan();
  return (
    <li className="flex flex-wrap items-start gap-3 border-b border-line p-2 last:border-b-0">
      <span className="w-10 pt-2.5 text-right font-mono">{line.revision}</span>
      <div className="min-w-0 grow basis-64 pt-2.5">
        {line.name && <p className="font-bold">{line.name}</p>}
        <p className="break-words">{line.summary}</p>
        <p className="text-sm text-soft">{date(line.made_at)}</p>
        <Fold title="What changed">
          <Changes revision={line.revision} />
        </Fold>
      </div>
      <Button look="quiet" aria-label={`${line.name ? "Rename" : "Name"} revision ${line.revision}`} onClick={() => onName(line)}>
        <Bookmark size={18} fill={line.name ? "currentColor" : "none"} />
      </Button>
      <Button disabled={line.revision === envelope.revision} onClick={() => void restore(line.revision)}>
        Back to this
      </Button>
    </li>
  );
}

export function RevisionsTab() {
  const { envelope } = usePlan();
  const planId = envelope.plan_id;
  const cache = useQueryClient();
  const [naming, setNaming] = useState<Line | null>(null);
  const [name, setName] = useState("");
  const pages = useInfiniteQuery({
    queryKey: ["history", planId, "pages"],
    initialPageParam: 1_000_000_001,
    queryFn: ({ pageParam }) =>
      answered(client.GET("/api/plans/{plan_id}/history", { params: { path: { plan_id: planId }, query: { before: pageParam } } })),
    getNextPageParam: (last) => (last.length === PAGE ? last[last.length - 1]?.revision : undefined),
  });
  const named = useQuery(namedQuery(planId));
  const give = useMutation({
    mutationFn: (wanted: { revision: number; name: string }) =>
      answered(
        client.PUT("/api/plans/{plan_id}/history/{revision}/name", {
          params: { path: { plan_id: planId, revision: wanted.revision } },
          body: { name: wanted.name },
        }),
      ),
    onSuccess: () => {
      setNaming(null);
      void cache.invalidateQueries({ queryKey: ["history", planId] });
    },
  });
  const ask = (line: Line) => {
    give.reset();
    setName(line.name);
    setNaming(line);
  };
  return (
    <div className="max-w-4xl">
      <div className="mb-3 flex flex-wrap items-center gap-3">
        <a className="inline-flex min-h-11 items-center gap-2 border border-line bg-sheet px-3 text-[15px] font-medium hover:bg-zinc" href={`/api/plans/${planId}/job`} download>
          <FileDown size={18} aria-hidden /> Take the job out, with its log
        </a>
      </div>
      {pages.error && <p role="alert">{pages.error.message}</p>}
      {(named.data ?? []).length > 0 && (
        <>
          <h3 className="mb-1 font-bold">With a name</h3>
          <ol className="mb-4 border border-line bg-sheet" aria-label="Revisions with a name">
            {(named.data ?? []).map((line) => (
              <Entry key={line.revision} line={line} onName={ask} />
            ))}
          </ol>
          <h3 className="mb-1 font-bold">All</h3>
        </>
      )}
      <ol className="border border-line bg-sheet" aria-label="All revisions">
        {(pages.data?.pages ?? []).flat().map((line) => (
          <Entry key={line.revision} line={line} onName={ask} />
        ))}
      </ol>
      {pages.hasNextPage && (
        <Button className="mt-3" disabled={pages.isFetchingNextPage} onClick={() => void pages.fetchNextPage()}>
          Show older ones
        </Button>
      )}
      <Ask
        open={naming !== null}
        title={`Name revision ${naming?.revision ?? ""}`}
        about="As “as quoted” or “as built”. Without a name it is one of many again."
        yes="Keep the name"
        problem={give.error?.message ?? null}
        onYes={() => naming && give.mutate({ revision: naming.revision, name })}
        onClose={() => setNaming(null)}
      >
        <label className="block">
          <span className="mb-1 block text-sm font-semibold">Name</span>
          <input className="field" autoFocus maxLength={60} value={name} onChange={(event) => setName(event.target.value)} />
        </label>
      </Ask>
    </div>
  );
}
