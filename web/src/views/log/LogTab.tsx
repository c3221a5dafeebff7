// The vehicle after the build: what is due, what is amiss, fuses that blew, and what is noted of it.
import { useQuery } from "@tanstack/react-query";
import { CalendarDays, FileDown } from "lucide-react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { logQuery } from "../../api/prove";
import { recordQuery, useRecord, type NewEntry } from "../../api/record";
import { Button } from "../../parts/Button";
import { date } from "../../parts/format";
import { usePlan } from "../../parts/plan";
import { Verdict, type Grade } from "../../parts/Verdict";
import { NoteForms } from "./NoteForms";

type Due = Schemas["Due"];

const STATE: Record<string, [Grade, string]> = { overdue: ["fix", "overdue"], soon: ["look", "soon"], later: ["good", ""] };

function DueLine({ due, odometer_km, onAdd }: { due: Due; odometer_km: number | null; onAdd: (entry: NewEntry) => void }) {
  const [grade, word] = STATE[due.state] ?? ["look", due.state];
  return (
    <li className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-line p-2 last:border-b-0" aria-label={due.label}>
      <span className="w-32 font-mono font-bold">{due.on}</span>
      <div className="min-w-0 grow basis-64">
        <p>
          {due.label} {word !== "" && <Verdict grade={grade} word={false} />} {word}
        </p>
        <p className="text-sm text-soft">
          {due.explain}.{due.at_km !== null && ` Or at ${due.at_km.toFixed(0)} km, whichever comes first.`}
          {due.last !== "" && ` Last done ${date(due.last)}.`}
        </p>
      </div>
      <Button onClick={() => onAdd({ kind: "recheck", subject: due.what, text: due.label, detail: odometer_km === null ? {} : { odometer_km } })}>Done today</Button>
    </li>
  );
}

const SEEN: Record<string, string> = { "reading-missing": "prove", "reading-out": "prove?lines=out", "reading-old": "prove?lines=out", "as-built-unfinished": "build/order", "unlabelled-end": "build/order", "fuse-without-cause": "prove/fault" };

function Finding({ one }: { one: Schemas["RecordFinding"] }) {
  const to = SEEN[one.code];
  return (
    <li className="border-b border-line p-2 last:border-b-0">
      <p className="break-words">
        <Verdict grade={one.severity} word={false} /> <b className="font-semibold">{one.what}.</b>
      </p>
      <p className="text-sm text-soft">{one.why}</p>
      <p className="text-sm break-words">
        {one.mend}{" "}
        {to !== undefined && (
          <Link className="underline" to={`../${to}`} relative="path">
            Go there
          </Link>
        )}
      </p>
    </li>
  );
}

export function LogTab() {
  const { envelope } = usePlan();
  const planId = envelope.plan_id;
  const record = useQuery(recordQuery(planId));
  const { data, error } = useQuery(logQuery(planId, envelope.revision, record.data?.length ?? 0));
  const { add } = useRecord(planId);
  if (error && data === undefined) return <p role="alert" className="border-l-4 border-stop bg-stop-wash p-2">{error.message}</p>;
  if (!data) return <p className="text-soft">Reading the record</p>;
  const address = encodeURIComponent(window.location.href);
  return (
    <div className="grid max-w-6xl gap-4 lg:grid-cols-2">
      <div className="min-w-0 space-y-3">
        <div className="flex flex-wrap items-center gap-2">
          <h3 className="grow font-bold">What is due</h3>
          {data.due.length > 0 && (
            <a href={`/api/plans/${planId}/due.ics?address=${address}`} download className="inline-flex min-h-11 items-center gap-2 border border-line bg-sheet px-3 font-medium hover:bg-zinc">
              <CalendarDays size={18} aria-hidden /> Calendar
            </a>
          )}
          <a href={`/api/plans/${planId}/handover.pdf?qr=true`} download className="inline-flex min-h-11 items-center gap-2 border border-line bg-sheet px-3 font-medium hover:bg-zinc">
            <FileDown size={18} aria-hidden /> Handover pack
          </a>
        </div>
        {data.due.length === 0 ? (
          <p className="border border-line bg-sheet p-3">Nothing is due before the vehicle counts as built: freeze it as built, or tick its first power-up.</p>
        ) : (
          <ul className="border border-line bg-sheet" aria-label="What is due">
            {data.due.map((one) => (
              <DueLine key={one.what} due={one} odometer_km={data.odometer_km} onAdd={add} />
            ))}
          </ul>
        )}
        <h3 className="font-bold">What is amiss</h3>
        {data.findings.length === 0 ? (
          <p className="border border-line bg-sheet p-3">Nothing: readings in band, no fuse without a cause, papers of today.</p>
        ) : (
          <ul className="border border-line bg-sheet" aria-label="What is amiss">
            {data.findings.map((one) => (
              <Finding key={`${one.code} ${one.subjects.join(" ")}`} one={one} />
            ))}
          </ul>
        )}
      </div>
      <div className="min-w-0 space-y-3">
        <NoteForms log={data} onAdd={add} />
        <p>
          <Link className="underline" to="../build/record" relative="path">
            Everything that was noted
          </Link>
        </p>
      </div>
    </div>
  );
}
