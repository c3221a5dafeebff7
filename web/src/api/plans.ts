// Queries and edits of plans, defined once. An edit's answer (revision and report) goes straight into the cache.
import { queryOptions, useMutation, useQueryClient } from "@tanstack/react-query";
import { answered, client, ProblemError, waitsOn, type Drawing, type Edit, type Envelope, type PatchOperation } from "./client";
import { keepAsSeen } from "./lastSeen";
import { away, letGo } from "./outbox";

export const planQuery = (planId: string) =>
  queryOptions({
    queryKey: ["plan", planId],
    // Every figure may change with an edit; looking for equal parts in a large report takes longer than drawing it.
    structuralSharing: false,
    queryFn: () => answered(client.GET("/api/plans/{plan_id}", { params: { path: { plan_id: planId } } })),
  });

export const practiceQuery = queryOptions({
  queryKey: ["practice"],
  queryFn: () => answered(client.GET("/api/practice")),
  staleTime: Infinity,
});

export const consumersQuery = queryOptions({
  queryKey: ["consumers"],
  queryFn: () => answered(client.GET("/api/consumers")),
  staleTime: Infinity,
});

export const matchQuery = (typed: string[]) =>
  queryOptions({
    queryKey: ["consumers", "match", typed],
    queryFn: () => answered(client.GET("/api/consumers/match", { params: { query: { typed } } })),
    enabled: typed.length > 0,
    staleTime: Infinity,
  });

export const cuttingQuery = (planId: string, revision: number) =>
  queryOptions({
    queryKey: ["cutting", planId, revision],
    queryFn: () => answered(client.GET("/api/plans/{plan_id}/cut-list", { params: { path: { plan_id: planId } } })),
  });

export type PictureKind = "map" | "board" | "fuse-window" | "pinch" | "layout" | "wiring" | "connections";

// The revision is part of the key: a picture belongs to the plan as it stood.
export const pictureQuery = (planId: string, revision: number, kind: PictureKind, subject: string | null, state: string | null) =>
  queryOptions({
    queryKey: ["picture", planId, revision, kind, subject, state],
    queryFn: async () =>
      (await answered(
        client.GET("/api/plans/{plan_id}/pictures/{kind}", {
          params: { path: { plan_id: planId, kind }, query: { subject, state } },
        }),
      )) as Drawing,
    placeholderData: (before) => (before !== undefined && before.kind === kind ? before : undefined),
  });

export const daysQuery = (planId: string, revision: number, days: number) =>
  queryOptions({
    queryKey: ["days", planId, revision, days],
    queryFn: () => answered(client.GET("/api/plans/{plan_id}/days", { params: { path: { plan_id: planId }, query: { days } } })),
    placeholderData: (before) => before,
    retry: false,
  });

export const shortsQuery = (planId: string, revision: number, state: string | null, to: "negative" | "body") =>
  queryOptions({
    queryKey: ["shorts", planId, revision, state, to],
    queryFn: () => answered(client.GET("/api/plans/{plan_id}/shorts", { params: { path: { plan_id: planId }, query: { state, to } } })),
  });

export const photosQuery = (planId: string) =>
  queryOptions({
    queryKey: ["photos", planId],
    queryFn: () => answered(client.GET("/api/plans/{plan_id}/photos", { params: { path: { plan_id: planId } } })),
  });

export const bestPlacesQuery = (planId: string, revision: number, part: string) =>
  queryOptions({
    queryKey: ["best-places", planId, revision, part],
    queryFn: ({ signal }) => answered(client.GET("/api/plans/{plan_id}/best-places/{part}", { params: { path: { plan_id: planId, part } }, signal })),
  });

export const previewQuery = (planId: string, revision: number, edits: Edit[]) =>
  queryOptions({
    queryKey: ["preview", planId, revision, edits],
    queryFn: () =>
      answered(
        client.POST("/api/plans/{plan_id}/preview", {
          params: { path: { plan_id: planId }, header: { "If-Match": `"${revision}"` } },
          body: { edits },
        }),
      ),
    retry: false,
  });

// Mends are tried on the whole plan before they are offered: asked for when a finding is looked at.
export const mendsQuery = (planId: string, revision: number, finding: string) =>
  queryOptions({
    queryKey: ["mends", planId, revision, finding],
    queryFn: () => answered(client.GET("/api/plans/{plan_id}/mends/{finding}", { params: { path: { plan_id: planId, finding } } })),
    retry: false,
  });

export const workingQuery = (planId: string, revision: number, key: string) =>
  queryOptions({
    queryKey: ["working", planId, revision, key],
    queryFn: () => answered(client.GET("/api/plans/{plan_id}/working/{key}", { params: { path: { plan_id: planId, key } } })),
    // While a figure is recomputed its sheet stays, and says so by being replaced.
    placeholderData: (before) => (before !== undefined && `${before.subject}.${before.figure}` === key ? before : undefined),
    retry: false,
  });

export const partsQuery = queryOptions({
  queryKey: ["parts"],
  queryFn: () => answered(client.GET("/api/parts")),
});

export type Change =
  | { kind: "edits"; edits: Edit[] }
  | { kind: "patch"; patch: PatchOperation[] }
  | { kind: "undo" }
  | { kind: "redo" }
  | { kind: "restore"; revision: number };

// A change as it was composed: on which revision, and a key by which the program knows it again.
export type Composed = { change: Change; base: number; key: string };

export function composed(change: Change, base: number): Composed {
  const random = crypto.getRandomValues(new Uint32Array(4));
  return { change, base, key: [...random].map((one) => one.toString(36)).join("-") };
}

async function send(planId: string, revision: number, change: Change, key: string): Promise<Envelope> {
  const params = { path: { plan_id: planId }, header: { "If-Match": `"${revision}"`, "Idempotency-Key": key } };
  if (change.kind === "edits")
    return answered(client.POST("/api/plans/{plan_id}/edits", { params, body: { edits: change.edits } }));
  if (change.kind === "patch") return answered(client.PATCH("/api/plans/{plan_id}", { params, body: change.patch }));
  if (change.kind === "undo") return answered(client.POST("/api/plans/{plan_id}/undo", { params }));
  if (change.kind === "redo") return answered(client.POST("/api/plans/{plan_id}/redo", { params }));
  const path = { plan_id: planId, revision: change.revision };
  return answered(
    client.POST("/api/plans/{plan_id}/history/{revision}/restore", { params: { ...params, path } }),
  );
}

// Revisions this screen has made itself: what was composed before them was composed knowing of them.
const own = new Map<string, Set<number>>();

function since(planId: string, base: number): number {
  const made = own.get(planId);
  let revision = base;
  while (made?.has(revision + 1)) revision += 1;
  return revision;
}

const FIRST_WAIT_MS = 400;
const LONGEST_WAIT_MS = 5000;

// Again and again while nobody answers; a refusal is an answer.
async function delivered(planId: string, { change, base, key }: Composed): Promise<Envelope> {
  const times = away.times(planId);
  for (let wait = FIRST_WAIT_MS; ; wait = Math.min(2 * wait, LONGEST_WAIT_MS)) {
    try {
      return await send(planId, since(planId, base), change, key);
    } catch (error) {
      if (!(error instanceof ProblemError) || !waitsOn(error)) throw error;
      away.tell(planId, error.problem.status === 0 ? "" : error.problem.title);
      await new Promise((resolve) => setTimeout(resolve, wait));
      if (away.times(planId) !== times) throw error;
    }
  }
}

/** Whether a refusal is a question: somebody else changed the same, or a length is to be confirmed. */
export function isAsked(error: unknown): boolean {
  const problem = error instanceof ProblemError ? error.problem : null;
  return problem?.status === 412 || (problem?.errors ?? []).some((line) => line.detail.includes("length_confirmed"));
}

// One line of edits a plan: a fast typist's second edit waits for the revision the first one makes.
export function useChange(planId: string) {
  const cache = useQueryClient();
  return useMutation({
    scope: { id: `plan-${planId}` },
    // A browser that believes it is away still asks: the program may be on this very machine.
    networkMode: "always",
    mutationFn: async (wanted: Composed) => {
      try {
        const envelope = await delivered(planId, wanted);
        await letGo(wanted.key);
        return envelope;
      } catch (error) {
        // What somebody is asked about stays in the browser until they have said: it outlives a reload.
        if (!isAsked(error)) await letGo(wanted.key);
        throw error;
      } finally {
        away.tell(planId, null);
      }
    },
    onSuccess: (envelope) => {
      const made = own.get(planId) ?? new Set<number>();
      own.set(planId, made.add(envelope.revision));
      cache.setQueryData(planQuery(planId).queryKey, envelope);
      keepAsSeen(envelope);
      void cache.invalidateQueries({ queryKey: ["shelf"] });
      void cache.invalidateQueries({ queryKey: ["history", planId] });
      void cache.invalidateQueries({ queryKey: ["compare", planId] });
    },
  });
}

/** Revisions of a plan that have a name. */
export const namedQuery = (planId: string) =>
  queryOptions({
    queryKey: ["history", planId, "named"],
    queryFn: () => answered(client.GET("/api/plans/{plan_id}/named", { params: { path: { plan_id: planId } } })),
  });
