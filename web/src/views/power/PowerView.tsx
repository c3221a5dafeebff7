// Power: will it last, will it refill, does every limit hold? The answer stands on top; the tabs say why.
import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Suspense } from "react";
import { Outlet } from "react-router";
import { daysQuery } from "../../api/plans";
import { Figure } from "../../parts/Figure";
import { chargeADay, daysLong, percent } from "../../parts/format";
import { usePlan } from "../../parts/plan";
import { isSource } from "../../parts/sources";
import { Tabs } from "../../parts/Tabs";
import { Verdict, type Grade } from "../../parts/Verdict";

const TABS = [
  ["", "Sources"],
  ["fit", "Fit"],
  ["days", "Days"],
  ["propose", "Propose"],
  ["options", "Options"],
  ["prices", "Prices"],
] as const;

function Answer({ question, grade, children }: { question: string; grade: Grade | null; children: ReactNode }) {
  return (
    <div className="min-w-44 grow border border-line bg-sheet px-3 py-2">
      <p className="flex items-baseline justify-between gap-2 text-sm text-soft">
        {question} {grade !== null && <Verdict grade={grade} />}
      </p>
      <p className="text-lg">{children}</p>
    </div>
  );
}

function Answers() {
  const { envelope } = usePlan();
  const { data, error } = useQuery(daysQuery(envelope.plan_id, envelope.revision, 7));
  const sources = new Set((envelope.plan.parts ?? []).filter(isSource).map((one) => one.id));
  const open = envelope.report.findings.filter((one) => one.waived === null && sources.has(one.subject));
  const found = data?.forecast;
  if (error) return <p role="alert" className="mb-3 border-l-4 border-stop bg-stop-wash p-2">{error.message}</p>;
  if (found === undefined) return <p className="mb-3 min-h-16 text-soft">Running through seven days</p>;
  if (found.problem !== "")
    return <p className="mb-3 border border-dashed border-line bg-sheet p-3">Nothing to say yet: {found.problem}.</p>;
  const poor = found.courses?.find((one) => one.name === "poor");
  return (
    <div className="mb-3 flex flex-wrap gap-2">
      <Answer question="Will it last?" grade={found.lasting ?? null}>
        {found.days_planned == null ? "nothing draws" : <b><Figure workingKey="days.7.planned" text={daysLong(found.days_planned)} label="Days without charge" /></b>} <span className="text-sm text-soft">without charge, {daysLong(found.days_asked)} asked · {chargeADay(found.ah_per_day)} a day with losses</span>
      </Answer>
      <Answer question="Will it refill?" grade={found.refilling ?? null}>
        {poor === undefined ? "–" : <b>{percent(poor.lowest_soc, 0)}</b>} <span className="text-sm text-soft">at the lowest in a week of poor weather{poor && poor.empty_at_h !== null ? ", then it is empty" : ""}</span>
      </Answer>
      <Answer question="Do the limits hold?" grade={(open[0]?.severity as Grade | undefined) ?? "good"}>
        <b>{open.length === 0 ? "all" : open.length}</b> <span className="text-sm text-soft">{open.length === 0 ? "limits hold" : "findings about sources"}</span>
      </Answer>
    </div>
  );
}

export function PowerView() {
  return (
    <section aria-labelledby="power-title">
      <Tabs title="Power" id="power-title" base="power" label="Views of the power" tabs={TABS} above={<Answers />}>
        <Suspense fallback={<p className="text-soft">Opening</p>}>
          <Outlet />
        </Suspense>
      </Tabs>
    </section>
  );
}
