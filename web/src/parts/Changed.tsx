// What the last change here did to lengths, wires and fuses, so that one sees it without going to look.
import { useState } from "react";
import type { Envelope, RunReport } from "../api/client";
import { guessed } from "./format";
import { usePlan } from "./plan";

const MOST = 8;

function told(run: RunReport, envelope: Envelope): string {
  const fuse = run.fuse?.rating_a == null ? "" : `, ${run.fuse.rating_a} A`;
  return `${guessed(run.length_m, run.length_guessed, envelope.plan.units ?? "metric")}, ${run.wire.label}${fuse}`;
}

function texts(envelope: Envelope): Map<string, string> {
  return new Map(envelope.report.runs.map((run) => [run.id, told(run, envelope)]));
}

export function Changed() {
  const { envelope, goTo } = usePlan();
  const [seen, setSeen] = useState({ revision: envelope.revision, held: texts(envelope), lines: [] as { id: string; tag: string; before: string; after: string }[] });
  if (seen.revision !== envelope.revision) {
    const held = texts(envelope);
    const lines = envelope.report.runs.flatMap((run) => {
      const before = seen.held.get(run.id);
      const after = held.get(run.id) ?? "";
      return before !== undefined && before !== after ? [{ id: run.id, tag: run.tag, before, after }] : [];
    });
    setSeen({ revision: envelope.revision, held, lines });
  }
  if (seen.lines.length === 0) return null;
  return (
    <div role="status" className="border-l-4 border-copper bg-zinc px-3 py-2 text-sm">
      <b className="font-semibold">With the last change</b>
      <ul>
        {seen.lines.slice(0, MOST).map((line) => (
          <li key={line.id}>
            <button type="button" className="min-h-9 text-left hover:underline" onClick={() => goTo(line.id)}>
              <span className="font-mono">{line.tag}</span> {line.before} → {line.after}
            </button>
          </li>
        ))}
      </ul>
      {seen.lines.length > MOST && <p>and {seen.lines.length - MOST} more</p>}
    </div>
  );
}
