// The one place that fetches. Every refusal of the server becomes a ProblemError with the fields it names.
import createClient from "openapi-fetch";
import { lastSeen } from "./lastSeen";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Envelope = Schemas["PlanEnvelope"];
export type Report = Schemas["Report"];
export type RunReport = Schemas["RunReport"];
export type LoadReport = Schemas["LoadReport"];
export type Finding = Schemas["Finding"];
export type Fix = Schemas["Fix"];
// The server always sends every field of a drawing; in the contract those with a default count as optional.
export type Stroke = Required<Schemas["Stroke"]>;
export type Piece = Required<Omit<Schemas["Piece"], "strokes" | "words">> & { strokes: Stroke[]; words: Required<Schemas["Words"]>[] };
export type Drawing = Required<Omit<Schemas["Drawing"], "pieces">> & { pieces: Piece[] };
export type FaultReport = Schemas["FaultReport"];
export type PartReport = Schemas["PartReport"];
export type PartCard = Schemas["PartCard"];
export type Part = NonNullable<Schemas["Plan"]["parts"]>[number];
export type Working = Schemas["Working"];
export type Plan = Schemas["Plan"];
export type Load = Schemas["Load"];
export type Run = Schemas["Run"];
export type Edit = Schemas["Edits"]["edits"][number];
export type PatchOperation = Schemas["PatchOperation"];
export type Problem = Schemas["Problem"];
export type Column = Schemas["SetCell"]["column"];

export const client = createClient<paths>({ baseUrl: "" });
client.use(lastSeen);

export class ProblemError extends Error {
  readonly problem: Problem;
  constructor(problem: Problem) {
    super(problem.detail);
    this.problem = problem;
  }
}

const offline: Problem = {
  type: "urn:lucernis:problem:no-answer",
  title: "No answer",
  status: 0,
  detail: "The program does not answer. Is it still running? Nothing was lost: what is stored stays stored.",
  instance: "",
  errors: [],
  changes: [],
  current_revision: null,
};

// No answer to the change itself: away, locked out for now, too many at once, no room, a fault of the program. It waits.
const WAITS = new Set([0, 401, 403, 408, 429]);

// A reader stays a reader: what it sends is refused, whatever its status is.
const READ_ONLY = "urn:lucernis:problem:only-looks";

/** Whether what was sent waits and is sent again, instead of being refused. */
export const waitsOn = ({ problem }: ProblemError): boolean => problem.type !== READ_ONLY && (WAITS.has(problem.status) || problem.status >= 500);

type Answer<T> = { data?: T; error?: unknown; response: Response };

export async function answered<T>(call: Promise<Answer<T>>): Promise<T> {
  let result: Answer<T>;
  try {
    result = await call;
  } catch {
    throw new ProblemError(offline);
  }
  if (!result.response.ok) {
    const body = result.error as Problem | undefined;
    throw new ProblemError(body && typeof body === "object" ? { ...offline, ...body } : { ...offline, detail: result.response.statusText });
  }
  return result.data as T;
}

export function fileUrl(planId: string, name: string, query = ""): string {
  return `/api/plans/${planId}/files/${name}${query}`;
}

// Lines of JSON as they arrive, for what takes long enough to tell how far it is.
export async function yearLines(planId: string, signal: AbortSignal, onLine: (text: string) => void): Promise<void> {
  const response = await fetch(`/api/plans/${planId}/year`, { signal });
  if (!response.ok || response.body === null) {
    const body = (await response.json().catch(() => ({}))) as Partial<Problem>;
    throw new ProblemError({ ...offline, ...body });
  }
  const reader = response.body.pipeThrough(new TextDecoderStream()).getReader();
  let rest = "";
  for (;;) {
    const { value, done } = await reader.read();
    if (done) break;
    const pieces = (rest + value).split("\n");
    rest = pieces.pop() ?? "";
    pieces.filter((line) => line !== "").forEach(onLine);
  }
}
