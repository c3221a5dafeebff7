// The frame around every view of a plan: order of work at the left, state switch on top, meter strip at the foot.
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Suspense, useCallback, useEffect, useMemo, useState, useSyncExternalStore } from "react";
import { useHotkeys } from "react-hotkeys-hook";
import { Outlet, useNavigate, useParams, useSearchParams } from "react-router";
import { toast } from "sonner";
import { ProblemError, type Edit, type PatchOperation } from "../../api/client";
import { away, keep, left, letGo } from "../../api/outbox";
import { useReader } from "../../api/sharing";
import { composed, isAsked, planQuery, useChange, type Change, type Composed } from "../../api/plans";
import { Ask } from "../../parts/Ask";
import { ActionsContext, PlanContext, type Actions, type Shared } from "../../parts/plan";
import { SheetPlace } from "../../parts/Side";
import { Judging } from "../../parts/Verdict";
import { CaseBar } from "./CaseBar";
import { MeterStrip } from "./MeterStrip";
import { Palette } from "./Palette";
import { Rail } from "./Rail";
import { TourBar } from "./TourBar";
import { TopBar } from "./TopBar";
import { WorkingSide } from "./WorkingSide";
import type { Theme } from "../../parts/theme";

// Changes that have been sent and not been answered.
const onItsWay = new Set<string>();

// Keys of changes this window has made or taken up again.
const resumed = new Set<string>();

// What takes something away is not asked for twice by a second click that comes before the answer.
function takesAway(change: Change): boolean {
  if (change.kind === "patch") return change.patch.some((one) => one.op === "remove");
  return change.kind === "edits" && change.edits.some((one) => one.op.startsWith("delete_") || one.op === "take_off" || ("action" in one && one.action === "remove"));
}

// What a person has typed, so that a refusal does not lose it.
function typedIn(change: Change): string {
  const texts = change.kind === "edits" ? change.edits.flatMap((edit) => ("text" in edit && edit.text !== "" ? [edit.text] : [])) : [];
  return texts.length > 0 ? ` Typed: ${texts.join(", ")}` : "";
}

type Pending = { asked: Composed; lines: string[]; kind: "stale" | "long" };

function confirmed(change: Change): Change {
  if (change.kind !== "edits") return change;
  return { kind: "edits", edits: change.edits.map((edit) => ("confirmed" in edit ? { ...edit, confirmed: true } : edit)) };
}

export function PlanFrame({ theme, onTheme }: { theme: Theme; onTheme: () => void }) {
  const { planId = "" } = useParams();
  const navigate = useNavigate();
  const cache = useQueryClient();
  const [search, setSearch] = useSearchParams();
  const query = useQuery(planQuery(planId));
  const { mutateAsync, isPending } = useChange(planId);
  const waiting = useSyncExternalStore(away.subscribe, () => away.has(planId));
  // Each refused change is asked about, one after the other; none is lost.
  const [asked, setAsked] = useState<readonly Pending[]>([]);
  const pending = asked[0] ?? null;
  const [finding, setFinding] = useState(false);
  const [sheetPlace, setSheetPlace] = useState<HTMLElement | null>(null);
  const refetch = query.refetch;
  const reader = useReader();

  const deliver = useCallback(
    async (one: Composed): Promise<boolean> => {
      try {
        await mutateAsync(one);
        return true;
      } catch (error) {
        const problem = error instanceof ProblemError ? error.problem : null;
        const wanted = one.change;
        if (problem?.status === 412 && (wanted.kind === "undo" || wanted.kind === "redo")) {
          // Made on top of it, it would take back what somebody else did.
          void letGo(one.key);
          void refetch();
          toast.error(wanted.kind === "undo" ? "Not undone" : "Not done again", { description: `Somebody changed the job meanwhile: ${(problem.changes ?? []).join("; ")}. That stands.` });
        } else if (problem !== null && isAsked(error)) {
          const kind = problem.status === 412 ? "stale" : "long";
          const lines = kind === "stale" ? (problem.changes ?? []) : (problem.errors ?? []).map((line) => line.detail);
          setAsked((before) => [...before.filter((other) => other.asked.key !== one.key), { asked: one, lines, kind }]);
        } else toast.error(problem?.title ?? "Not done", { description: `${problem?.detail ?? String(error)}${typedIn(wanted)}` });
        return false;
      }
    },
    [mutateAsync, refetch],
  );
  const change = useCallback(
    async (wanted: Change): Promise<boolean> => {
      if (reader) {
        toast.error("Nothing was changed", { description: "This link is read only. Ask the workshop for the pairing code." });
        return false;
      }
      const same = planId + JSON.stringify(wanted);
      if (takesAway(wanted) && onItsWay.has(same)) return false;
      onItsWay.add(same);
      const held = cache.getQueryData(planQuery(planId).queryKey);
      const one = composed(wanted, held?.revision ?? 0);
      resumed.add(one.key);
      keep(planId, one);
      return deliver(one).finally(() => onItsWay.delete(same));
    },
    [deliver, cache, planId, reader],
  );
  // What a reload or a closed window left behind goes out first.
  const ready = query.isSuccess;
  useEffect(() => {
    if (!ready) return;
    void left(planId).then((ones) => {
      for (const one of ones) {
        if (resumed.has(one.key)) continue;
        resumed.add(one.key);
        void deliver(one);
      }
    });
  }, [ready, planId, deliver]);

  // A question is answered: what was asked about is let go, or goes out anew.
  const decide = (next: Change | null) => {
    if (pending === null) return;
    setAsked((before) => before.slice(1));
    const { key } = pending.asked;
    void refetch().then(() => {
      // Kept anew first: a page that closes in between loses nothing.
      if (next !== null) void change(next);
      return letGo(key);
    });
  };

  const plan = query.data;
  const workingKey = search.get("working");
  const stateId = search.get("state");
  const put = useCallback(
    (name: string, value: string | null) =>
      setSearch((before) => {
        const next = new URLSearchParams(before);
        if (value === null) next.delete(name);
        else next.set(name, value);
        return next;
      }),
    [setSearch],
  );
  const actions = useMemo<Actions>(() => {
    const held = () => cache.getQueryData(planQuery(planId).queryKey);
    return {
      edit: (edits: Edit[]) => change({ kind: "edits", edits }),
      patch: (patch: PatchOperation[]) => change({ kind: "patch", patch }),
      undo: () => {
        if (held()?.can_undo) void change({ kind: "undo" });
      },
      redo: () => {
        if (held()?.can_redo) void change({ kind: "redo" });
      },
      restore: (revision: number) => change({ kind: "restore", revision }),
      openWorking: (key: string) => put("working", key),
      goTo: (subject: string) => {
        const report = held()?.report;
        const state = stateId !== null ? `&state=${stateId}` : "";
        // Over whichever view of the circuit is open; from elsewhere over the list.
        const circuits = /circuits(\/\w+)?$/.exec(window.location.pathname)?.[0] ?? null;
        if (report?.channels.some((one) => one.id === subject)) void navigate(`layout?channel=${subject}${state}`);
        else if (report?.runs.some((run) => run.id === subject)) void navigate(`${circuits ?? "circuits"}?run=${subject}${state}`);
        else if (circuits !== null) void navigate(`${circuits}?part=${subject}${state}`);
        else if (report?.loads.some((load) => load.id === subject)) void navigate(`loads?load=${subject}${state}`);
        else if (report?.parts.some((part) => part.id === subject)) void navigate(`circuits/parts?part=${subject}${state}`);
        else void navigate(`circuits${state.replace("&", "?")}`);
      },
    };
  }, [cache, planId, stateId, change, put, navigate]);
  const shared = useMemo<Shared | null>(() => {
    if (plan === undefined) return null;
    const known = plan.report.summary.states.some((one) => one.state_id === stateId);
    return { ...actions, envelope: plan, stateId: known ? stateId : null, busy: isPending, waiting };
  }, [plan, stateId, actions, isPending, waiting]);

  // In a field that is being typed in, the browser's own undo of the text comes first.
  useHotkeys("mod+z", () => actions.undo(), { preventDefault: true });
  useHotkeys("mod+y, mod+shift+z", () => actions.redo(), { preventDefault: true });
  useHotkeys("shift+slash", () => setFinding(true), { preventDefault: true });
  useHotkeys("mod+k", () => setFinding(true), { preventDefault: true, enableOnFormTags: true });

  if (query.isError)
    return (
      <main className="p-8">
        <h1 className="text-xl font-bold">This job cannot be opened</h1>
        <p className="my-3">{query.error.message}</p>
        <a className="underline" href="/">
          Back to the shelf
        </a>
      </main>
    );
  if (shared === null || plan === undefined)
    return (
      <main className="p-8">
        <h1 className="text-xl">Opening the job</h1>
      </main>
    );
  return (
    <ActionsContext value={actions}>
      <PlanContext value={shared}>
      <Judging value={plan.case_id === null || plan.case_id === undefined}>
      <SheetPlace value={sheetPlace}>
      <div className="grid h-dvh overflow-hidden grid-cols-[minmax(0,1fr)] grid-rows-[auto_1fr_auto] md:grid-cols-[7.5rem_minmax(0,1fr)] md:grid-rows-[auto_1fr_auto]">
        <div className="min-w-0 md:col-span-2">
        {plan.case_id && <CaseBar caseId={plan.case_id} />}
        {reader && <p role="status" className="border-b border-line bg-look-wash px-3 py-1 text-sm">This link shows the job, read only.</p>}
        <TourBar />
        <TopBar theme={theme} onTheme={onTheme} onState={(id) => put("state", id)} onFind={() => setFinding(true)} />
        </div>
        <Rail />
        <div className="flex min-h-0 min-w-0">
          <main className="@container relative min-w-0 grow overflow-auto p-3 md:p-4" id="work">
            <Suspense fallback={<p className="text-soft">Opening</p>}>
              <Outlet />
            </Suspense>
          </main>
          {/* Sheets stand beside the work where there is room, so that they never cover what they were opened from. */}
          <div ref={setSheetPlace} className="max-w-[45%] shrink-0" />
        </div>
        <MeterStrip />
      </div>
      <Palette open={finding} onClose={() => setFinding(false)} onState={(id) => put("state", id)} onTheme={onTheme} />
      {workingKey !== null && <WorkingSide planId={planId} revision={plan.revision} workingKey={workingKey} onClose={() => put("working", null)} />}
      <Ask
        unasked
        open={pending?.kind === "stale"}
        title="Edit conflict"
        about={`Your change has not been made yet.${pending === null ? "" : typedIn(pending.asked.change)}${asked.length > 1 ? ` ${asked.length - 1} more to be asked about.` : ""}`}
        yes="Apply mine"
        onYes={() => decide(pending?.asked.change ?? null)}
        onClose={() => decide(null)}
      >
        <ul className="list-disc pl-5">
          {(pending?.lines.length ? pending.lines : ["nothing that shows"]).map((line) => (
            <li key={line}>{line}</li>
          ))}
        </ul>
      </Ask>
      <Ask
        unasked
        open={pending?.kind === "long"}
        title="Over 100 m one way?"
        about={pending?.lines.join(" ") ?? ""}
        yes="It is meant so"
        onYes={() => decide(pending === null ? null : confirmed(pending.asked.change))}
        onClose={() => decide(null)}
      />
      </SheetPlace>
      </Judging>
      </PlanContext>
    </ActionsContext>
  );
}
