// What protects a run, in a word.
import type { RunReport } from "../../api/client";

export function fuseText(run: RunReport): string {
  if (run.fuse === null) return run.protected_by ? `by ${run.protected_by}` : "none";
  if (run.fuse.rating_a === null) return "none made";
  return run.fuse.count > 1 ? `${run.fuse.count} × ${run.fuse.rating_a} A` : `${run.fuse.rating_a} A`;
}
