// A run in one line: its tag, and its name or what it joins.
import type { Schemas } from "../api/client";

export function runText(run: Pick<Schemas["RunReport"], "tag" | "name" | "start_label" | "finish_label">): string {
  return `${run.tag} ${run.name !== "" ? run.name : `${run.start_label} to ${run.finish_label}`}`;
}
