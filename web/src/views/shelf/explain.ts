// A refusal, with the fields it names.
import { ProblemError } from "../../api/client";

export function explain(error: unknown) {
  const problem = error instanceof ProblemError ? error.problem : null;
  const fields = (problem?.errors ?? []).slice(0, 4).map((one) => `${one.pointer} ${one.detail}`).join(" · ");
  const told = { description: fields || (problem?.detail ?? String(error)), duration: 15000 };
  void import("sonner").then(({ toast }) => toast.error(problem?.title ?? "Not done", told));
}
