// A length nobody measured: ask for it, and lead on to the next of them.
import { useEffect, useRef } from "react";
import type { RunReport } from "../../api/client";
import { Button } from "../../parts/Button";
import { length, lengthKeys } from "../../parts/format";
import { TextField } from "../../parts/Labelled";
import { usePlan } from "../../parts/plan";

export function MeasureHere({ run }: { run: RunReport }) {
  const { envelope, edit, goTo } = usePlan();
  const section = useRef<HTMLElement>(null);
  // After the sheet has taken the focus: whoever walks through them with a tape only types.
  useEffect(() => {
    const later = setTimeout(() => section.current?.querySelector("input")?.select());
    return () => clearTimeout(later);
  }, []);
  if (!run.length_guessed) return null;
  const guessed = envelope.report.runs.filter((one) => one.length_guessed);
  const next = guessed[(guessed.indexOf(run) + 1) % guessed.length];
  const following = next !== undefined && next.id !== run.id ? next : null;
  return (
    <section ref={section} aria-label="Measure" className="space-y-2 border-l-4 border-copper bg-copper-wash p-2">
      <p className="text-sm">
        {guessed.length === 1 ? "The last length nobody has measured." : `${guessed.length} lengths nobody has measured yet.`} Along the way it will lie, one way.
      </p>
      <TextField
        label="Measured, one way"
        keys={lengthKeys(envelope.plan.units ?? "metric")}
        value={`~${length(run.length_m, envelope.plan.units ?? "metric")}`}
        onCommit={(text) =>
          void edit([{ op: "set_length", run: run.id, text: text.replace("~", ""), reading: "one_way", confirmed: false }]).then((done) => done && following && goTo(following.id))
        }
      />
      {following && (
        <Button onClick={() => goTo(following.id)}>
          Next: <span className="font-mono">{following.tag}</span> {following.name || following.finish_label}
        </Button>
      )}
    </section>
  );
}
