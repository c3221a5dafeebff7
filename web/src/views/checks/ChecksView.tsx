// May I build this? Every finding, worst first, with what, why and mend; waived ones stay in sight.
import { useState, type ReactNode } from "react";
import type { Finding } from "../../api/client";
import { Ask } from "../../parts/Ask";
import { BenchLink, benchOf } from "../../parts/BenchLink";
import { Button } from "../../parts/Button";
import { Fold } from "../../parts/Fold";
import { Mends } from "../../parts/Mends";
import { OneOf } from "../../parts/OneOf";
import { usePlan } from "../../parts/plan";
import { Sleeve } from "../../parts/Sleeve";
import { Term, WithTerms } from "../../parts/Term";
import { Verdict, type Grade } from "../../parts/Verdict";

const EDGE: Record<string, string> = { stop: "border-l-stop", fix: "border-l-fix", look: "border-l-look" };

function Card({ finding, onWaive }: { finding: Finding; onWaive: () => void }) {
  const { envelope, goTo, edit } = usePlan();
  const waived = finding.waived !== null;
  const first = envelope.report.runs.find((run) => run.length_guessed);
  const shown = benchOf(finding.code);
  return (
    <li className={`border border-l-8 border-line bg-sheet p-3 ${waived ? "border-l-line" : EDGE[finding.severity]}`}>
      <div className="flex flex-wrap items-start gap-x-4 gap-y-2">
        <div className="w-20 shrink-0">
          {waived ? <span className="font-semibold text-soft">waived</span> : <Verdict grade={finding.severity} />}
          {finding.tag && (
            <div className="mt-1">
              <Sleeve tag={finding.tag} colour={envelope.plan.wire_colours?.positive ?? "red"} />
            </div>
          )}
        </div>
        <div className="min-w-0 grow basis-72">
          <p className="font-bold">{finding.what}</p>
          <p>
            <WithTerms text={finding.why} />
          </p>
          <p>{finding.mend}</p>
          {finding.asked && <p className="mt-1">Asked for: {finding.asked}</p>}
          <div className="mt-2 empty:hidden">
            <Mends finding={finding} />
          </div>
          {finding.consequences.length > 0 && (
            <Fold
              className="mt-2 border-l-4 border-line pl-2"
              title={finding.consequences.length === 1 ? "One more thing follows" : `${finding.consequences.length} more things follow`}
            >
              <ul className="space-y-1">
                {finding.consequences.map((one) => (
                  <li key={one.id}>
                    <Verdict grade={one.severity} word={false} /> {one.tag && <b className="font-mono">{one.tag}</b>} {one.what}
                    <span className="block font-mono text-xs text-soft">{one.code}</span>
                  </li>
                ))}
              </ul>
            </Fold>
          )}
          {waived && <p className="mt-1 border-l-4 border-line pl-2">Waived: {finding.waived}</p>}
          <p className="mt-1 font-mono text-xs text-soft">
            <Term name={finding.code} />
          </p>
        </div>
        <div className="flex flex-wrap gap-2">
          {finding.code === "lengths-guessed" && first && <Button onClick={() => goTo(first.id)}>Measure them one by one</Button>}
          {finding.subject_kind === "run" && shown !== null && <BenchLink run={finding.subject} tag={finding.tag} happens={shown} />}
          {finding.subject !== "plan" && <Button onClick={() => goTo(finding.subject)}>Go to {finding.tag || "it"}</Button>}
          {waived ? (
            <Button onClick={() => void edit([{ op: "unwaive", code: finding.code, subject: finding.subject }])}>Take waiver back</Button>
          ) : (
            finding.code !== "waiver-idle" && finding.subject !== "plan" && <Button onClick={onWaive}>Waive</Button>
          )}
          {finding.code === "waiver-idle" && (
            <Button
              onClick={() => {
                const idle = envelope.plan.waivers?.filter((one) => one.subject === finding.subject && finding.what.startsWith(one.code)) ?? [];
                void edit(idle.map((one) => ({ op: "unwaive" as const, code: one.code, subject: one.subject })));
              }}
            >
              Take waiver back
            </Button>
          )}
        </div>
      </div>
    </li>
  );
}

export function ChecksView() {
  const { envelope, edit } = usePlan();
  const [asked, setAsked] = useState<Finding | null>(null);
  const [reason, setReason] = useState("");
  const [only, setOnly] = useState<string>("all");
  const { findings, summary } = envelope.report;
  const counts: [Grade, number][] = [
    ["stop", summary.open_stop],
    ["fix", summary.open_fix],
    ["look", summary.open_look],
  ];
  const grades = counts.map(([grade, count]) => [grade, <><Verdict grade={grade} /> {count}</>] as [string, ReactNode]);
  const shown = findings.filter((one) => only === "all" || (one.waived === null && one.severity === only));
  const answer = summary.open_stop > 0 ? "Not yet: a stop is open." : summary.open_fix > 0 ? "Nothing stops it; some things want mending." : "Nothing found that stops it.";
  if (envelope.case_id)
    return (
      <section aria-labelledby="checks-title" className="max-w-5xl">
        <h2 id="checks-title" className="text-xl font-bold">
          Checks
        </h2>
        <p className="mt-2 border border-dashed border-line bg-sheet p-8 text-center">Hidden while you look for what is wrong: mark it above, hand the case in, and they open.</p>
      </section>
    );
  return (
    <section aria-labelledby="checks-title" className="max-w-5xl">
      <div className="mb-3 flex flex-wrap items-center gap-x-4 gap-y-2">
        <h2 id="checks-title" className="text-xl font-bold">
          Checks
        </h2>
        <p className="grow">{answer}</p>
        <OneOf label="Show" value={only} options={[["all", "all"], ...grades]} onChange={setOnly} />
      </div>
      {shown.length === 0 && <p className="border border-dashed border-line bg-sheet p-8 text-center">Nothing of this kind.</p>}
      <ul className="space-y-2">
        {shown.map((finding) => (
          <Card
            key={finding.id}
            finding={finding}
            onWaive={() => {
              setReason("");
              setAsked(finding);
            }}
          />
        ))}
      </ul>
      <p className="mt-4 max-w-3xl text-sm text-soft">{envelope.report.caution}</p>
      <Ask
        open={asked !== null}
        title="Accept this finding?"
        about={asked?.what ?? ""}
        yes="Waive it"
        disabled={reason.trim() === ""}
        onYes={() => {
          if (asked) void edit([{ op: "waive", code: asked.code, subject: asked.subject, reason }]).then((done) => done && setAsked(null));
        }}
        onClose={() => setAsked(null)}
      >
        <label className="block">
          <span className="mb-1 block font-semibold">Reason, printed on the run sheet</span>
          <input className="field" autoFocus value={reason} onChange={(event) => setReason(event.target.value)} maxLength={400} />
        </label>
      </Ask>
    </section>
  );
}
