// The mends of a finding that are edits: each shows what it would change before it is taken.
import { useQuery } from "@tanstack/react-query";
import { Wrench } from "lucide-react";
import { useState } from "react";
import type { Finding, Fix } from "../api/client";
import { mendsQuery, previewQuery } from "../api/plans";
import { Ask } from "./Ask";
import { Button } from "./Button";
import { Fold } from "./Fold";
import { kilograms } from "./format";
import { usePlan } from "./plan";
import { Verdict } from "./Verdict";

function Lines({ title, findings }: { title: string; findings: Finding[] }) {
  if (findings.length === 0) return null;
  return (
    <div>
      <h3 className="font-semibold">{title}</h3>
      <ul className="text-sm">
        {findings.map((one) => (
          <li key={one.id} className="border-t border-line py-1">
            <Verdict grade={one.severity} /> {one.tag} {one.what}
          </li>
        ))}
      </ul>
    </div>
  );
}

function fuse(rating_a: number | null): string {
  return rating_a === null ? "no fuse of its own" : `${rating_a} A`;
}

function Outcome({ fix }: { fix: Fix }) {
  const { envelope } = usePlan();
  const { data, error } = useQuery(previewQuery(envelope.plan_id, envelope.revision, fix.edits));
  if (error) return <p role="alert">{error.message}</p>;
  if (data === undefined) return <p className="text-soft">Computing what it changes</p>;
  return (
    <div className="space-y-3">
      <p className="text-sm">
        Stops {data.before_stop} → {data.after_stop}, fixes {data.before_fix} → {data.after_fix}, copper{" "}
        {kilograms(data.before_copper_kg)} → {kilograms(data.after_copper_kg)}.
      </p>
      <Lines title="Gone with it" findings={data.gone} />
      <Lines title="New with it" findings={data.new} />
      {data.runs.length > 0 && (
        <div>
          <h3 className="font-semibold">Runs that change</h3>
          <ul className="text-sm">
            {data.runs.map((run) => (
              <li key={run.id} className="border-t border-line py-1">
                <span className="font-mono">{run.tag}</span> {run.before.wire_label}, {fuse(run.before.fuse_a)} → {run.after.wire_label},{" "}
                {fuse(run.after.fuse_a)}
              </li>
            ))}
          </ul>
        </div>
      )}
      {data.added_runs.length > 0 && <p className="text-sm">New runs: {data.added_runs.join(", ")}</p>}
      <Fold title="In the plan">
        <ul className="list-disc pl-5 text-sm">
          {data.changes.map((line) => (
            <li key={line}>{line}</li>
          ))}
        </ul>
      </Fold>
    </div>
  );
}

export function Mends({ finding }: { finding: Finding }) {
  const { edit, envelope } = usePlan();
  const [open, setOpen] = useState<Fix | null>(null);
  const any = finding.waived === null && finding.fixes.length > 0;
  const { data, error } = useQuery({ ...mendsQuery(envelope.plan_id, envelope.revision, finding.id), enabled: any });
  if (!any) return null;
  if (error) return <p role="alert">{error.message}</p>;
  if (data === undefined) return <p className="text-sm text-soft">Trying mends</p>;
  return (
    <div className="flex flex-wrap gap-2">
      {data.map((fix) => (
        <Button key={fix.label} onClick={() => setOpen(fix)}>
          <Wrench size={16} aria-hidden /> {fix.label}
        </Button>
      ))}
      <Ask
        open={open !== null}
        title={open?.label ?? ""}
        about={finding.what}
        yes="Take it"
        onYes={() => {
          if (open) void edit(open.edits).then((done) => done && setOpen(null));
        }}
        onClose={() => setOpen(null)}
      >
        {open && <Outcome fix={open} />}
      </Ask>
    </div>
  );
}

export function FindingsHere({ findings }: { findings: Finding[] }) {
  return findings.map((one) => (
    <div key={one.id} className="space-y-2 border-l-4 border-line bg-zinc p-2 text-sm">
      <p>
        {one.waived === null ? <Verdict grade={one.severity} /> : <b className="text-soft">waived</b>} {one.what}
        <span className="block">{one.mend}</span>
      </p>
      <Mends finding={one} />
    </div>
  ));
}
