// The proving list: state by state, what to make, where the probes go, what to expect, and what was read.
import { useQuery } from "@tanstack/react-query";
import { FileDown, TriangleAlert } from "lucide-react";
import { useState } from "react";
import { useNavigate, useSearchParams } from "react-router";
import type { Schemas } from "../../api/client";
import { provingQuery, useMeters } from "../../api/prove";
import { recordQuery, useRecord } from "../../api/record";
import { Fold } from "../../parts/Fold";
import { MeterBar } from "../../parts/MeterBar";
import { NumberField } from "../../parts/NumberField";
import { OneOf } from "../../parts/OneOf";
import { usePlan } from "../../parts/plan";
import { WhoField } from "../../parts/WhoField";
import { Progress } from "../../parts/Progress";
import { DayFold } from "./DayFold";
import { LineCard } from "./LineCard";
import { SAME_DAY_MS, startFault } from "./known";

type Line = Schemas["Line"];
type Proved = Schemas["Proved"];

const SHOWN = [
  ["open", "Open"],
  ["out", "Out of band"],
  ["all", "All"],
] as const;

function wanted(shown: string, proved: Proved | undefined): boolean {
  if (shown === "all") return true;
  if (shown === "out") return proved !== undefined && (proved.judged.verdict !== "in" || proved.old);
  return proved === undefined || proved.judged.verdict !== "in" || proved.old;
}

// Lines that need the same state stand under it: it is made once.
function byState(lines: Line[]): [string, Line[]][] {
  const found: [string, Line[]][] = [];
  for (const line of lines) {
    const last = found[found.length - 1];
    if (last !== undefined && last[0] === line.situation) last[1].push(line);
    else found.push([line.situation, [line]]);
  }
  return found;
}

export function ProvingTab() {
  const { envelope } = usePlan();
  const planId = envelope.plan_id;
  const [search, setSearch] = useSearchParams();
  const navigate = useNavigate();
  const record = useQuery(recordQuery(planId));
  const day = { measured: search.get("measured") ?? "", sky: search.get("sky") ?? "" };
  const { data, error } = useQuery(provingQuery(planId, envelope.revision, record.data?.length ?? 0, day));
  const [since] = useState(() => Date.now() - SAME_DAY_MS);
  const { onTheWay, add } = useRecord(planId);
  const meters = useMeters();
  const [leads, setLeads] = useState<number | null>(null);
  if (error && data === undefined) return <p role="alert" className="border-l-4 border-stop bg-stop-wash p-2">{error.message}</p>;
  if (!data) return <p className="text-soft">Reckoning every reading</p>;
  const leads_ohm = leads ?? data.leads_ohm;
  const shown = search.get("lines") ?? "open";
  const { lines, states, sections, method } = data.proving;
  const must = lines.filter((line) => !line.id.startsWith("panel:"));
  const well = must.filter((line) => data.proved[line.id]?.judged.verdict === "in" && !data.proved[line.id]?.old).length;
  const out = lines.filter((line) => wanted("out", data.proved[line.id])).length;
  const pending = new Set(onTheWay.flatMap((one) => (one.kind === "reading" ? [one.subject] : one.takes_back ? [`#${one.takes_back}`] : [])));
  const first = sections.find(([key]) => lines.some((line) => line.section === key && wanted(shown, data.proved[line.id])))?.[0];
  const put = (known: Record<string, string>) =>
    setSearch((before) => {
      const after = new URLSearchParams(before);
      for (const [name, value] of Object.entries(known)) {
        if (value === "") after.delete(name);
        else after.set(name, value);
      }
      return after;
    });
  const onFault = (line: Line, typed: string) => {
    startFault(planId, { reading: line.reading, situation: line.situation, typed, leads_ohm });
    void navigate("fault");
  };
  return (
    <div className="max-w-5xl space-y-3">
      <div className="flex flex-wrap items-end gap-4">
        <div className="w-40">
          <WhoField label="Who reads" />
        </div>
        <div className="w-36">
          <NumberField label="Leads together, Ω" value={leads_ohm} onCommit={(value) => typeof value === "number" && setLeads(value)} />
        </div>
        <div className="pb-2">
          <p>
            <b className="font-mono">{well}</b> of <b className="font-mono">{must.length}</b> read and in band
            {out > 0 && (
              <>
                , <b className="font-mono text-fix">{out}</b> out
              </>
            )}
          </p>
          <Progress label="Readings in band" done_frac={well / Math.max(1, must.length)} />
        </div>
        <OneOf label="Which readings" value={shown} options={SHOWN} onChange={(lines) => put({ lines })} />
        {(["files/proving-sheet.pdf", "certificate.pdf"] as const).map((file) => (
          <a key={file} href={`/api/plans/${planId}/${file}`} download className="inline-flex min-h-11 items-center gap-2 border border-line bg-sheet px-3 font-medium hover:bg-zinc">
            <FileDown size={18} aria-hidden /> {file === "certificate.pdf" ? "Certificate" : "Sheet"}
          </a>
        ))}
      </div>
      <MeterBar planId={planId} meters={meters.meters} chosen={meters.chosen} put={meters.put} onLeads={setLeads} />
      {error && (
        <p role="alert" className="border-l-4 border-stop bg-stop-wash p-2">
          {error.message}
        </p>
      )}
      <DayFold day={day} put={put} proved={data.proved} since={since} />
      {sections.map(([key, name]) => {
        const all = lines.filter((line) => line.section === key);
        const some = all.filter((line) => wanted(shown, data.proved[line.id]));
        const done = all.filter((line) => !wanted("open", data.proved[line.id])).length;
        return (
          <Fold
            key={key}
            open={key === first}
            className="border border-line bg-zinc px-2"
            title={
              <span className="flex grow justify-between gap-3 text-base">
                <b className="font-bold">{name}</b>
                <span className="font-mono">
                  {done} of {all.length}
                </span>
              </span>
            }
          >
            {some.length === 0 && <p className="pb-2 text-soft">{shown === "out" ? "None out of band." : "All in band."}</p>}
            {byState(some).map(([state, group]) => (
              <div key={`${key} ${state} ${group[0]?.id ?? ""}`} className="pb-3">
                <p className="font-bold">{states[state]?.to_make}</p>
                {states[state]?.caution !== "" && (
                  <p className="my-1 flex gap-2 border-l-4 border-copper bg-copper-wash p-1.5 text-sm">
                    <TriangleAlert size={16} aria-hidden className="mt-0.5 shrink-0" />
                    {states[state]?.caution}
                  </p>
                )}
                <ul className="border border-line bg-sheet">
                  {group.map((line) => (
                    <LineCard
                      key={line.id}
                      planId={planId}
                      line={line}
                      proved={data.proved[line.id]}
                      pending={pending.has(line.id) || pending.has(`#${data.proved[line.id]?.entry ?? 0}`)}
                      meter={meters.chosen}
                      leads_ohm={leads_ohm}
                      day={day}
                      onAdd={add}
                      onFault={onFault}
                    />
                  ))}
                </ul>
              </div>
            ))}
          </Fold>
        );
      })}
      <p className="text-sm text-soft">{method} Work on live circuits, on batteries and on anything at mains volts is for competent people; local code and makers&apos; sheets come first.</p>
    </div>
  );
}
