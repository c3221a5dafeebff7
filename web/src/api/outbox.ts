// Changes on their way: kept in the browser until the program has answered, so that neither a program that is away nor
// a reload loses what was typed. They go out in the order they were made.
import { createStore, del, entries, set, type UseStore } from "idb-keyval";
import type { Composed } from "./plans";

type Kept = Composed & { planId: string; made: number };

let opened: UseStore | null = null;
const store = () => (opened ??= createStore("lucernis", "outbox"));

// Why nobody has answered yet, by plan; empty: the program is away.
const waiting = new Map<string, string>();
const givenUp = new Map<string, number>();
const listeners = new Set<() => void>();

/** Plans with a change the program has not answered yet because it is away. */
export const away = {
  subscribe(listener: () => void): () => void {
    listeners.add(listener);
    return () => listeners.delete(listener);
  },
  has: (planId: string): boolean => waiting.has(planId),
  /** Give up what is sent again and again; what is composed later is sent as ever. */
  giveUp(planId: string): void {
    givenUp.set(planId, (givenUp.get(planId) ?? 0) + 1);
  },
  times: (planId: string): number => givenUp.get(planId) ?? 0,
  why: (planId: string): string => waiting.get(planId) ?? "",
  tell(planId: string, why: string | null): void {
    if (why !== null) waiting.set(planId, why);
    else waiting.delete(planId);
    listeners.forEach((listener) => listener());
  },
};

// A browser that keeps nothing (a private window, a full disk) still sends: then only the reload is not survived.
async function quietly<T>(work: () => Promise<T>, otherwise: T): Promise<T> {
  try {
    return await work();
  } catch {
    return otherwise;
  }
}

const writing = new Map<string, Promise<void>>();

export function keep(planId: string, change: Composed): void {
  const kept: Kept = { ...change, planId, made: Date.now() };
  writing.set(
    change.key,
    quietly(() => set(change.key, kept, store()), undefined),
  );
}

export async function letGo(key: string): Promise<void> {
  await writing.get(key);
  writing.delete(key);
  await quietly(() => del(key, store()), undefined);
}

/** Everything that waits for a plan, as it goes into a file. */
export async function waitingFile(planId: string): Promise<string> {
  return JSON.stringify({ format: "lucernis-waiting", plan_id: planId, changes: (await left(planId)).map(({ change, base, key }) => ({ change, base, key })) }, null, 2);
}

/** What was left from before a reload, oldest first. */
export async function left(planId: string): Promise<Composed[]> {
  const all = await quietly(() => entries<string, Kept>(store()), []);
  return all
    .map(([, one]) => one)
    .filter((one) => one.planId === planId)
    .sort((a, b) => a.made - b.made);
}
