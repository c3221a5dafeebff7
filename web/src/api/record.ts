// The record of the work: entries go out in the order they were made, and wait in the browser while nobody answers.
import { queryOptions, useQueryClient, type QueryClient } from "@tanstack/react-query";
import { createStore, del, entries, set, type UseStore } from "idb-keyval";
import { useCallback, useEffect, useSyncExternalStore } from "react";
import { toast } from "sonner";
import { answered, client, ProblemError, waitsOn, type Schemas } from "./client";

type Sent = Schemas["NewEntry"];
export type NewEntry = Pick<Sent, "kind"> & Partial<Omit<Sent, "kind" | "key">>;
type Kept = Sent & { planId: string; made: number };

// Two people at work see one another's ticks after so long.
const LOOK_AGAIN_MS = 10_000;
const WAIT_MS = 3000;
const SETTLE_MS = 40;

export const recordQuery = (planId: string) =>
  queryOptions({
    queryKey: ["record", planId],
    refetchInterval: LOOK_AGAIN_MS,
    queryFn: () => answered(client.GET("/api/plans/{plan_id}/record", { params: { path: { plan_id: planId } } })),
  });

// Asked for anew when the record has grown: the record is small, putting a large job in order is not.
export const orderQuery = (planId: string, revision: number, entries: number) =>
  queryOptions({
    queryKey: ["order", planId, revision, entries],
    placeholderData: (before) => before,
    queryFn: () => answered(client.GET("/api/plans/{plan_id}/order", { params: { path: { plan_id: planId } } })),
  });

export const sinceQuery = (planId: string, revision: number) =>
  queryOptions({
    queryKey: ["cut-since", planId, revision],
    queryFn: () => answered(client.GET("/api/plans/{plan_id}/cut-list/since", { params: { path: { plan_id: planId } } })),
  });

let opened: UseStore | null = null;
const store = () => (opened ??= createStore("lucernis-record", "entries"));

let waiting: readonly Kept[] = [];
const listeners = new Set<() => void>();
let sending = false;
let read = false;

function put(next: readonly Kept[]): void {
  waiting = next;
  listeners.forEach((listener) => listener());
}

function subscribe(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

// A browser that keeps nothing still sends: then only a reload is not survived.
const quietly = (work: Promise<unknown>) => void work.catch(() => undefined);

async function readLeft(): Promise<void> {
  if (read) return;
  read = true;
  const left = await entries<string, Kept>(store()).catch(() => [] as [string, Kept][]);
  const known = new Set(waiting.map((one) => one.key));
  put([...left.map(([, one]) => one).filter((one) => !known.has(one.key)), ...waiting].sort((a, b) => a.made - b.made));
}

async function send(cache: QueryClient): Promise<void> {
  if (sending) return;
  sending = true;
  try {
    for (let first = waiting[0]; first !== undefined; first = waiting[0]) {
      const { planId, made, ...body } = first;
      try {
        await answered(client.POST("/api/plans/{plan_id}/record", { params: { path: { plan_id: planId } }, body }));
      } catch (error) {
        // Nobody answered, or there is no room: it waits. A refusal is an answer.
        if (!(error instanceof ProblemError) || waitsOn(error)) {
          setTimeout(() => void send(cache), WAIT_MS);
          return;
        }
        toast.error("Not kept in the record", { description: `${error.message} (of ${new Date(made).toLocaleTimeString()})` });
      }
      quietly(del(first.key, store()));
      const sent = first.key;
      await Promise.all(
        ["record", "cut-since"].map((key) => cache.invalidateQueries({ queryKey: [key, planId] })),
      );
      // It is shown as on its way until the order of work knows of it: a tick does not come and go.
      do await new Promise((resolve) => setTimeout(resolve, SETTLE_MS));
      while (cache.isFetching({ queryKey: ["order", planId] }) > 0);
      put(waiting.filter((one) => one.key !== sent));
    }
  } finally {
    sending = false;
  }
}

/** Entries of a plan that are on their way, and how to add one. */
export function useRecord(planId: string): { onTheWay: readonly Kept[]; add: (entry: NewEntry) => void } {
  const cache = useQueryClient();
  const all = useSyncExternalStore(subscribe, () => waiting);
  useEffect(() => {
    void readLeft().then(() => send(cache));
  }, [cache]);
  const add = useCallback(
    (entry: NewEntry) => {
      const random = crypto.getRandomValues(new Uint32Array(4));
      const made = Date.now();
      const kept: Kept = {
        subject: "",
        was: "",
        text: "",
        takes_back: null,
        detail: {},
        ...entry,
        who: entry.who ?? whoIsIt(),
        key: [...random].map((one) => one.toString(36)).join("-"),
        made_at: new Date(made).toISOString(),
        planId,
        made,
      };
      quietly(set(kept.key, kept, store()));
      put([...waiting, kept]);
      void send(cache);
    },
    [cache, planId],
  );
  return { onTheWay: all.filter((one) => one.planId === planId), add };
}

const WHO = "lucernis-who";

export function whoIsIt(): string {
  try {
    return localStorage.getItem(WHO) ?? "";
  } catch {
    return "";
  }
}

export function rememberWho(name: string): void {
  try {
    localStorage.setItem(WHO, name.slice(0, 60));
  } catch {
    // A private window: it is asked again.
  }
}
