// The shelf of jobs: open one, begin one, bring one in, take one off.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Archive, ArchiveRestore, FileUp, Plus } from "lucide-react";
import { lazy, Suspense, useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { answered, client, type Schemas } from "../../api/client";
import { dueQuery, keepingQuery, shelfQuery } from "../../api/shelf";
import { useReader } from "../../api/sharing";
import { Button } from "../../parts/Button";
import { chargeADay, day } from "../../parts/format";
import { Verdict } from "../../parts/Verdict";
import { explain } from "./explain";
import { NEXT, type Theme } from "../../parts/theme";
import { useTour } from "../../parts/tour";
import { ThemeIcon } from "../../parts/ThemeIcon";

// Questions and lists are half of all script: they come when somebody begins a job.
const BESIDE = [
  ["/bench", "Bench"],
  ["/school", "School"],
  ["/words", "Words"],
] as const;

const TourCard = lazy(() => import("./TourCard").then((made) => ({ default: made.TourCard })));
const NewJob = lazy(() => import("./NewJob").then((made) => ({ default: made.NewJob })));

function Card({ card, archived, reader, due }: { card: Schemas["ShelfCard"]; archived: boolean; reader: boolean; due: Schemas["JobDue"] | undefined }) {
  const cache = useQueryClient();
  const move = useMutation({
    mutationFn: () => {
      const params = { path: { plan_id: card.plan_id } };
      return archived
        ? answered(client.POST("/api/plans/{plan_id}/unarchive", { params }))
        : answered(client.POST("/api/plans/{plan_id}/archive", { params }));
    },
    onSuccess: () => void cache.invalidateQueries({ queryKey: ["shelf"] }),
    onError: explain,
  });
  if (card.problem)
    return (
      <li className="flex flex-col border border-line border-t-4 border-t-stop bg-sheet p-4">
        <h2 className="text-xl font-bold">{card.name}</h2>
        <p role="alert" className="mt-2">This job cannot be read: {card.problem}. The others are not concerned.</p>
        <p className="mt-2">
          <Link to="/keeping" className="underline">
            Restore a backup
          </Link>
        </p>
      </li>
    );
  const clean = card.open_stop === 0 && card.open_fix === 0;
  return (
    <li className="flex flex-col border border-line border-t-4 border-t-copper bg-sheet">
      <Link to={`/plan/${card.plan_id}/loads`} className="grow p-4 hover:bg-zinc">
        <h2 className="text-xl font-bold">{card.name}</h2>
        <p>{card.vehicle}</p>
        <p className="text-soft">{card.customer || (card.revision > 0 ? "no customer named" : "")}</p>
        <p className="mt-3 flex flex-wrap gap-x-4 gap-y-1">
          {card.revision > 0 && (
            <>
              <span>{card.load_count} loads</span>
              <span>{card.run_count} runs</span>
              <span>{chargeADay(card.ah_per_day)} a day</span>
            </>
          )}
        </p>
        <p className="mt-1 flex flex-wrap gap-x-4">
          {card.open_stop > 0 && <span><Verdict grade="stop" /> {card.open_stop}</span>}
          {card.open_fix > 0 && <span><Verdict grade="fix" /> {card.open_fix}</span>}
          {card.open_look > 0 && <span><Verdict grade="look" /> {card.open_look}</span>}
          {clean && card.open_look === 0 && !card.behind && <Verdict grade="good" />}
          {card.behind && <span role="status" className="text-soft">{card.revision > 0 ? "Checking again. Figures are from before." : "Checking. Figures come in a moment."}</span>}
        </p>
      </Link>
      {due !== undefined && (
        <Link to={`/plan/${card.plan_id}/log`} className="flex min-h-11 flex-wrap items-center gap-x-3 border-t border-line px-4 py-1 hover:bg-zinc">
          {due.due.map((one) => (
            <span key={one.what}>
              <Verdict grade={one.state === "overdue" ? "fix" : "look"} word={false} /> {one.label}: <b className="font-mono">{one.on}</b>
            </span>
          ))}
          {due.open_fuses > 0 && (
            <span>
              <Verdict grade="fix" word={false} /> {due.open_fuses} {due.open_fuses === 1 ? "fuse" : "fuses"} without a cause
            </span>
          )}
        </Link>
      )}
      <div className="flex items-center gap-2 border-t border-line pl-4 text-sm text-soft">
        <span className="grow">
          {card.revision > 0 && `${card.practice_label} · ${day(card.made_at)}`}
        </span>
        {!reader && (
          <Button look="quiet" aria-label={`${archived ? "Put back" : "Archive"}: ${card.name}`} onClick={() => move.mutate()}>
            {archived ? <ArchiveRestore size={18} /> : <Archive size={18} />}
            {archived ? "Put back" : "Archive"}
          </Button>
        )}
      </div>
    </li>
  );
}

export function ShelfView({ theme, onTheme }: { theme: Theme; onTheme: () => void }) {
  const [archived, setArchived] = useState(false);
  const { data, error, isPending } = useQuery(shelfQuery(archived));
  const tour = useTour();
  // Who looks at one job by a link is offered nothing else.
  const reader = useReader();
  const plover = data?.find((card) => card.name === "Plover" && card.open_stop > 0);
  const keeping = useQuery(keepingQuery);
  const due = useQuery(dueQuery);
  const navigate = useNavigate();
  const cache = useQueryClient();
  const chooser = useRef<HTMLInputElement>(null);
  const [asking, setAsking] = useState(false);
  const arrive = (envelope: Schemas["PlanEnvelope"]) => {
    void cache.invalidateQueries({ queryKey: ["shelf"] });
    void navigate(`/plan/${envelope.plan_id}/loads`);
  };
  const bring = useMutation({
    mutationFn: async (file: File) => {
      if (file.name.toLowerCase().endsWith(".zip"))
        return answered(
          client.POST("/api/jobs", {
            body: file as unknown as string,
            bodySerializer: (body) => body as unknown as Blob,
            headers: { "content-type": "application/octet-stream" },
          }),
        );
      let document: Record<string, unknown>;
      try {
        document = JSON.parse(await file.text()) as Record<string, unknown>;
      } catch {
        throw new Error(`${file.name} is not a plan: it is not JSON. Nothing was stored.`);
      }
      return answered(client.POST("/api/plans/import", { body: document }));
    },
    onSuccess: arrive,
    onError: explain,
  });
  return (
    <div className="mx-auto max-w-6xl p-4">
      <header className="mb-4 flex flex-wrap items-center gap-2">
        <h1 className="grow text-2xl font-bold">
          <span className="border-b-4 border-copper">Lucernis</span> <span className="font-normal text-soft">{archived ? "archived jobs" : "jobs on the shelf"}</span>
        </h1>
        {!reader && (
          <>
            <Button onClick={() => setArchived(!archived)}>{archived ? "Show the shelf" : "Show archived jobs"}</Button>
            <Link to="/parts" className="inline-flex min-h-11 items-center border border-line bg-sheet px-3 text-[15px] font-medium hover:bg-zinc">
              Library of parts
            </Link>
            {BESIDE.map(([to, name]) => (
              <Link key={to} to={to} className="inline-flex min-h-11 items-center border border-line bg-sheet px-3 text-[15px] font-medium hover:bg-zinc">
                {name}
              </Link>
            ))}
            <Link to="/keeping" className="inline-flex min-h-11 items-center border border-line bg-sheet px-3 text-[15px] font-medium hover:bg-zinc">
              Backups and devices
            </Link>
            <Button onClick={() => chooser.current?.click()}>
              <FileUp size={18} /> Bring in a job
            </Button>
            <input
              ref={chooser}
              type="file"
              accept=".json,.zip,application/json,application/zip"
              className="sr-only"
              aria-label="Plan file"
              tabIndex={-1}
              onChange={(event) => {
                const file = event.target.files?.[0];
                if (file) bring.mutate(file);
                event.target.value = "";
              }}
            />
            <Button look="main" onClick={() => setAsking(true)}>
              <Plus size={18} /> New job
            </Button>
          </>
        )}
        <Button look="quiet" aria-label={NEXT[theme].label} onClick={onTheme}>
          <ThemeIcon theme={theme} />
        </Button>
      </header>
      <main>
        {error && <p role="alert" className="border-l-4 border-stop bg-stop-wash p-3">{error.message}</p>}
        {(keeping.data?.notes ?? []).concat(keeping.data?.read_only ? [keeping.data.read_only] : []).map((note) => (
          <p key={note} role="alert" className="mb-3 border-l-4 border-stop bg-stop-wash p-3">
            {note}.{" "}
            <Link to="/keeping" className="underline">
              Backups and devices
            </Link>
          </p>
        ))}
        {isPending && !error && <p>Reading the shelf</p>}
        {!archived && !reader && !tour.asked && plover !== undefined && (
          <Suspense fallback={null}>
            <TourCard planId={plover.plan_id} />
          </Suspense>
        )}
        {data?.length === 0 && (
          <p className="border border-dashed border-line bg-sheet p-8 text-center">
            {archived ? "No job is archived." : "The shelf is empty. Begin a job or bring in a plan."}
          </p>
        )}
        <ul className="grid gap-4 sm:grid-cols-2 lg:grid-cols-3">
          {(data ?? []).map((card) => (
            <Card key={card.plan_id} card={card} archived={archived} reader={reader} due={due.data?.find((one) => one.plan_id === card.plan_id)} />
          ))}
        </ul>
      </main>
      {asking && (
        <Suspense fallback={null}>
          <NewJob onMade={arrive} onClose={() => setAsking(false)} />
        </Suspense>
      )}
    </div>
  );
}
