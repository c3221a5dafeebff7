// The shelf of jobs: open one, begin one, bring one in, take one off.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Archive, ArchiveRestore, FileUp, Moon, Plus, Sun } from "lucide-react";
import { useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { toast } from "sonner";
import { answered, client, ProblemError, type Schemas } from "../../api/client";
import { practiceQuery, shelfQuery } from "../../api/plans";
import { Ask } from "../../parts/Ask";
import { Button } from "../../parts/Button";
import { chargeADay, date } from "../../parts/format";
import { Choice } from "../../parts/Labelled";
import { Tip } from "../../parts/Tip";
import { Verdict } from "../../parts/Verdict";
import { BODIES, type Body } from "../../parts/bodies";

function explain(error: unknown) {
  const problem = error instanceof ProblemError ? error.problem : null;
  const fields = (problem?.errors ?? []).slice(0, 4).map((one) => `${one.pointer} ${one.detail}`).join(" · ");
  toast.error(problem?.title ?? "Not done", { description: fields || (problem?.detail ?? String(error)), duration: 15000 });
}

function Card({ card, archived }: { card: Schemas["ShelfCard"]; archived: boolean }) {
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
  const clean = card.open_stop === 0 && card.open_fix === 0;
  return (
    <li className="flex flex-col border border-line border-t-4 border-t-copper bg-sheet">
      <Link to={`/plan/${card.plan_id}/loads`} className="grow p-4 hover:bg-zinc">
        <h2 className="text-xl font-bold">{card.name}</h2>
        <p>{card.vehicle}</p>
        <p className="text-soft">{card.customer || "no customer named"}</p>
        <p className="mt-3 flex flex-wrap gap-x-4 gap-y-1">
          <span>{card.load_count} loads</span>
          <span>{card.run_count} runs</span>
          <span>{chargeADay(card.ah_per_day)} a day</span>
        </p>
        <p className="mt-1 flex flex-wrap gap-x-4">
          {card.open_stop > 0 && <span><Verdict grade="stop" /> {card.open_stop}</span>}
          {card.open_fix > 0 && <span><Verdict grade="fix" /> {card.open_fix}</span>}
          {card.open_look > 0 && <span><Verdict grade="look" /> {card.open_look}</span>}
          {clean && card.open_look === 0 && <Verdict grade="good" />}
        </p>
      </Link>
      <div className="flex items-center gap-2 border-t border-line pl-4 text-sm text-soft">
        <span className="grow">
          {card.practice_label} · {date(card.made_at)}
        </span>
        <Tip text={archived ? "Put back" : "Archive"}>
          <Button look="quiet" aria-label={`${archived ? "Put back" : "Archive"}: ${card.name}`} onClick={() => move.mutate()}>
          {archived ? <ArchiveRestore size={18} /> : <Archive size={18} />}
        </Button>
        </Tip>
      </div>
    </li>
  );
}

export function ShelfView({ theme, onTheme }: { theme: "light" | "dark"; onTheme: () => void }) {
  const [archived, setArchived] = useState(false);
  const { data, error, isPending } = useQuery(shelfQuery(archived));
  const practice = useQuery(practiceQuery);
  const navigate = useNavigate();
  const cache = useQueryClient();
  const chooser = useRef<HTMLInputElement>(null);
  const [asking, setAsking] = useState(false);
  const [name, setName] = useState("");
  const [set, setSet] = useState("metric_caravan");
  const [body, setBody] = useState<Body>("steel");
  const arrive = (envelope: Schemas["PlanEnvelope"]) => {
    void cache.invalidateQueries({ queryKey: ["shelf"] });
    void navigate(`/plan/${envelope.plan_id}/loads`);
  };
  const begin = useMutation({
    mutationFn: () => answered(client.POST("/api/plans", { body: { name: name.trim(), practice_set: set, body } })),
    onSuccess: arrive,
    onError: explain,
  });
  const bring = useMutation({
    mutationFn: async (file: File) => {
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
        <Button onClick={() => setArchived(!archived)}>{archived ? "Show the shelf" : "Show archived jobs"}</Button>
        <Link to="/parts" className="inline-flex min-h-11 items-center border border-line bg-sheet px-3 text-[15px] font-medium hover:bg-zinc">
          Library of parts
        </Link>
        <Button onClick={() => chooser.current?.click()}>
          <FileUp size={18} /> Bring in a plan
        </Button>
        <input
          ref={chooser}
          type="file"
          accept=".json,application/json"
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
        <Button look="quiet" aria-label={theme === "dark" ? "Daylight theme" : "Dark theme"} onClick={onTheme}>
          {theme === "dark" ? <Sun size={20} /> : <Moon size={20} />}
        </Button>
      </header>
      <main>
        {error && <p role="alert" className="border-l-4 border-stop bg-stop-wash p-3">{error.message}</p>}
        {isPending && !error && <p>Reading the shelf</p>}
        {data?.length === 0 && (
          <p className="border border-dashed border-line bg-sheet p-8 text-center">
            {archived ? "No job is archived." : "The shelf is empty. Begin a job or bring in a plan."}
          </p>
        )}
        <ul className="grid gap-4 sm:grid-cols-2 lg:grid-cols-3">
          {(data ?? []).map((card) => (
            <Card key={card.plan_id} card={card} archived={archived} />
          ))}
        </ul>
      </main>
      <Ask open={asking} title="New job" about="It begins with a battery, a main fuse and one fuse block." yes="Begin" disabled={name.trim() === ""} onYes={() => begin.mutate()} onClose={() => setAsking(false)}>
        <label className="block">
          <span className="mb-1 block text-sm font-semibold">Name of the job</span>
          <input className="field" autoFocus maxLength={80} value={name} onChange={(event) => setName(event.target.value)} />
        </label>
        <Choice label="Body" value={body} options={BODIES} onChange={(value) => setBody(value as Body)} />
        <Choice label="Practice set" value={set} options={(practice.data?.sets ?? []).map((one) => [one.name, one.label] as const)} onChange={setSet} />
        <p className="text-sm text-soft">{practice.data?.sets.find((one) => one.name === set)?.about}</p>
      </Ask>
    </div>
  );
}
