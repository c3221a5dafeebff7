// Why a run has its size, what stands against the next ones, and what it stands besides.
import type { RunReport } from "../../api/client";
import { amps, length } from "../../parts/format";
import { LABELS } from "../../parts/labels";
import { usePlan } from "../../parts/plan";

export function WhyHere({ run }: { run: RunReport }) {
  const units = usePlan().envelope.plan.units ?? "metric";
  const { why, reserve } = run;
  const besides = [
    reserve.length_m === null ? null : `${length(reserve.length_m, units)} longer`,
    reserve.current_a === null ? null : `${amps(reserve.current_a)} more ${LABELS.reserve_by[reserve.current_by as keyof typeof LABELS.reserve_by] ?? ""}`,
    reserve.ambient_k === null ? null : `${Math.round(reserve.ambient_k)} K warmer`,
  ].filter((one) => one !== null);
  return (
    <section aria-labelledby={`why-${run.id}`}>
      <h3 id={`why-${run.id}`} className="mb-1 text-sm font-semibold">
        Why {run.wire.label}: {LABELS.decided[why.decided]}
      </h3>
      <dl className="text-sm">
        <div className="border-t border-line py-1">
          <dt className="inline text-soft">Not thinner: </dt>
          <dd className="inline">{why.thinner}</dd>
        </div>
        <div className="border-t border-line py-1">
          <dt className="inline text-soft">Not thicker: </dt>
          <dd className="inline">{why.thicker}</dd>
        </div>
        {besides.length > 0 && (
          <div className="border-t border-line py-1">
            <dt className="inline text-soft">{LABELS.quantities.reserve}, each by itself: </dt>
            <dd className="inline">{besides.join(" · ")}</dd>
          </div>
        )}
      </dl>
    </section>
  );
}
