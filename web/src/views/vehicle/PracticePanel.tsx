// The practice set, what another one would change, and every rule with its source; any rule may be changed here.
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answered, client, type Schemas } from "../../api/client";
import { practiceQuery } from "../../api/plans";
import { Ask } from "../../parts/Ask";
import { Button } from "../../parts/Button";
import { kilograms, percent } from "../../parts/format";
import { Choice } from "../../parts/Labelled";
import { usePlan } from "../../parts/plan";
import { Verdict, type Grade } from "../../parts/Verdict";
import { RuleForm } from "./RuleForm";

function useComparison(planId: string, revision: number, set: string | null) {
  return useQuery({
    queryKey: ["compare", planId, revision, set],
    enabled: set !== null,
    queryFn: () => answered(client.GET("/api/plans/{plan_id}/compare", { params: { path: { plan_id: planId }, query: { set: set ?? "" } } })),
  });
}

function Side({ short }: { short: Schemas["RunShort"] }) {
  return (
    <>
      <td className="px-1.5 py-1 font-mono whitespace-nowrap">{short.wire_label}</td>
      <td className="px-1.5 py-1 text-right font-mono whitespace-nowrap">{short.fuse_a === null ? "–" : `${short.fuse_a} A`}</td>
      <td className="px-1.5 py-1 text-right font-mono whitespace-nowrap">{percent(short.conductor_drop_to_end_frac)}</td>
      <td className="px-1.5 py-1">
        <Verdict grade={short.verdict as Grade} word={false} />
      </td>
    </>
  );
}

export function PracticePanel() {
  const { envelope, patch } = usePlan();
  const { plan, report } = envelope;
  const practice = useQuery(practiceQuery);
  const [wanted, setWanted] = useState<string | null>(null);
  const [rule, setRule] = useState<Schemas["RuleOrigin"] | null>(null);
  const compared = useComparison(envelope.plan_id, envelope.revision, wanted);
  const sets = practice.data?.sets ?? [];
  const changed = compared.data?.runs.filter((run) => run.changed) ?? [];
  return (
    <section aria-labelledby="practice-title" className="space-y-3">
      <h2 id="practice-title" className="text-xl font-bold">
        Practice
      </h2>
      <Choice
        label="Practice set"
        value={plan.practice.set}
        options={sets.map((one) => [one.name, one.label] as const)}
        onChange={(value) => value !== plan.practice.set && setWanted(value)}
      />
      <p className="text-sm text-soft">{sets.find((one) => one.name === plan.practice.set)?.about}</p>
      <table className="w-full border border-line bg-sheet text-sm">
        <caption className="sr-only">Rules in force</caption>
        <thead className="bg-zinc">
          <tr>
            <th scope="col" className="head">Rule</th>
            <th scope="col" className="head">In force</th>
            <th scope="col" className="head"><span className="sr-only">Change</span></th>
          </tr>
        </thead>
        <tbody>
          {report.rules.map((one) => (
            <tr key={one.rule} className="border-t border-line align-top">
              <th scope="row" className="px-1.5 py-2 text-left font-normal">
                {one.label}
                <span className="block text-xs text-soft">
                  {one.overridden ? `changed here${one.reason ? `: ${one.reason}` : ""}` : `${one.source} (${one.certainty})`}
                </span>
              </th>
              <td className={`px-1.5 py-2 ${one.overridden ? "font-bold text-copper" : ""}`}>{one.shown}</td>
              <td className="text-right">
                <Button look="quiet" aria-label={`Change: ${one.label}`} onClick={() => setRule(one)}>
                  change
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {rule !== null && practice.data && <RuleForm origin={rule} practice={practice.data} onClose={() => setRule(null)} />}
      <Ask
        open={wanted !== null}
        wide
        title={`Switch to ${sets.find((one) => one.name === wanted)?.label ?? ""}`}
        about={compared.data ? `Runs that change: ${compared.data.changed} of ${compared.data.runs.length}. Copper ${kilograms(compared.data.before_copper_kg)} now, ${kilograms(compared.data.after_copper_kg)} then. Stops ${compared.data.before_stop} now, ${compared.data.after_stop} then. Rules changed in this plan go back to the set's; pins stay.` : "Computing both"}
        yes="Switch"
        disabled={compared.data === undefined}
        problem={compared.error?.message ?? null}
        onYes={() => {
          const set = wanted;
          setWanted(null);
          void patch([{ op: "add", path: "/practice", value: { set, overrides: [] } }]);
        }}
        onClose={() => setWanted(null)}
      >
        {compared.data && (
          <div className="relative max-h-[45dvh] overflow-auto border border-line" tabIndex={0} role="region" aria-label="Runs that change">
            <table className="w-full text-sm">
              <thead className="bg-zinc">
                <tr>
                  <th scope="col" className="head">Run</th>
                  <th scope="col" colSpan={4} className="head">{compared.data.before_label}</th>
                  <th scope="col" colSpan={4} className="head">{compared.data.after_label}</th>
                </tr>
              </thead>
              <tbody>
                {changed.map((run) => (
                  <tr key={run.id} className="border-t border-line">
                    <th scope="row" className="px-1.5 py-1 text-left font-normal">
                      <span className="font-mono">{run.tag}</span> {run.name}
                    </th>
                    <Side short={run.before} />
                    <Side short={run.after} />
                  </tr>
                ))}
                {changed.length === 0 && (
                  <tr>
                    <td className="p-2">No run changes its wire, fuse or verdict.</td>
                  </tr>
                )}
              </tbody>
            </table>
          </div>
        )}
      </Ask>
    </section>
  );
}
