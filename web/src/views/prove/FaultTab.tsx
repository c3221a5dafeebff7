// Find a fault: what is said, what was read, what it may be, and the reading that tells most next.
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { X } from "lucide-react";
import { choicesQuery, findFault, provingQuery, useMeters } from "../../api/prove";
import { recordQuery, useRecord } from "../../api/record";
import { Button } from "../../parts/Button";
import { MeterBar } from "../../parts/MeterBar";
import { usePlan } from "../../parts/plan";
import { percent } from "../../parts/format";
import { runText } from "../../parts/runs";
import { SAME_DAY_MS, useKnown, type Known, type Taken } from "./known";
import { NextCard } from "./NextCard";
import { OwnReading } from "./OwnReading";
import { SuspectCard } from "./SuspectCard";
import { SymptomForm } from "./SymptomForm";
import { useState } from "react";

const LEAST_SHARE = 0.005;
// The server weighs no more at once.
const MOST_READINGS = 60;

function useSubjects() {
  const { envelope } = usePlan();
  const names = new Map<string, string>((envelope.plan.parts ?? []).map((one) => [one.id, one.name]));
  for (const run of envelope.report.runs) names.set(run.id, runText(run));
  return names;
}

export function FaultTab() {
  const { envelope } = usePlan();
  const planId = envelope.plan_id;
  const [known, put] = useKnown(planId);
  const meters = useMeters();
  const names = useSubjects();
  const choices = useQuery(choicesQuery(planId, envelope.revision));
  const { add } = useRecord(planId);
  const record = useQuery(recordQuery(planId));
  const list = useQuery({ ...provingQuery(planId, envelope.revision, record.data?.length ?? 0), enabled: (record.data ?? []).some((one) => one.kind === "reading") });
  const [leads_ohm, setLeads] = useState(0);
  const [since] = useState(() => Date.now() - SAME_DAY_MS);
  const asked = known.readings.length + known.symptoms.length > 0;
  const now = known.readings[known.readings.length - 1]?.situation ?? null;
  const ranking = useQuery({
    queryKey: ["fault", planId, envelope.revision, known],
    queryFn: () => findFault(planId, { readings: known.readings, symptoms: known.symptoms, now }),
    enabled: asked,
    placeholderData: keepPreviousData,
    retry: false,
  });
  const change = (next: Partial<Known>) => put({ ...known, ...next });
  const take = (taken: Taken) =>
    change({ readings: [...known.readings.filter((one) => one.reading !== taken.reading || one.situation !== taken.situation), taken] });
  // What was read for the list today: the meter's other readings speak as well as the odd one. On another day the
  // batteries stood elsewhere.
  const noted = (list.data?.proving.lines ?? []).flatMap((line) => {
    const one = list.data?.proved[line.id];
    return one === undefined || one.old || line.reading === "" || Date.parse(one.made_at) < since ? [] : [{ reading: line.reading, situation: line.situation, typed: one.typed, leads_ohm: one.leads_ohm }];
  });
  const fresh = noted.filter((one) => !known.readings.some((other) => other.reading === one.reading && other.situation === one.situation));
  const found = ranking.data;
  const states = new Map((choices.data?.situations ?? []).map((one) => [one.id, one]));
  const kinds = new Map((choices.data?.symptoms ?? []).map((one) => [one.id, one.label]));
  const drop = (index: number) => change({ readings: known.readings.filter((_, at) => at !== index) });
  const labels = new Map((found?.suspects[0]?.beside ?? []).map((one) => [`${one.reading}@${one.situation}`, one.label]));
  return (
    <div className="grid max-w-6xl gap-4 lg:grid-cols-2">
      <div className="min-w-0 space-y-3">
        <SymptomForm choices={choices.data?.symptoms ?? []} onAdd={(one) => change({ symptoms: [...known.symptoms.filter((other) => other.kind !== one.kind || other.subject !== one.subject), one] })} />
        <MeterBar planId={planId} meters={meters.meters} chosen={meters.chosen} put={meters.put} onLeads={setLeads} />
        {found?.next.map((one, index) => <NextCard key={`${one.reading}@${one.situation}`} planId={planId} next={one} best={index === 0} same={one.situation === now} waiting={ranking.isFetching} meter={meters.chosen} leads_ohm={leads_ohm} onTake={take} />)}
        {asked && found?.next.length === 0 && !ranking.isFetching && <p aria-busy={false} className="border-l-4 border-copper bg-copper-wash p-2">No reading would tell more. Mend what is likeliest, and read again.</p>}
        {fresh.length > 0 && (
          <Button onClick={() => change({ readings: [...known.readings, ...fresh].slice(-MOST_READINGS) })}>
            Take {fresh.length} {fresh.length === 1 ? "reading" : "readings"} of the proving list
          </Button>
        )}
        {asked && (
          <div className="border border-line bg-sheet p-2">
            <div className="flex items-center justify-between gap-2">
              <h3 className="font-bold">What is known</h3>
              <Button look="quiet" onClick={() => put({ readings: [], symptoms: [] })}>
                Begin anew
              </Button>
            </div>
            <ul aria-label="What is known">
              {known.symptoms.map((one, index) => (
                <li key={`${one.kind} ${one.subject}`} className="flex items-center gap-2 border-t border-line">
                  <span className="grow break-words">
                    {names.get(one.subject) ?? one.subject}: {(kinds.get(one.kind) ?? one.kind).toLowerCase()}
                  </span>
                  <Button look="quiet" aria-label={`Take out: ${kinds.get(one.kind) ?? one.kind}`} onClick={() => change({ symptoms: known.symptoms.filter((_, at) => at !== index) })}>
                    <X size={18} aria-hidden />
                  </Button>
                </li>
              ))}
              {known.readings.map((one, index) => (
                <li key={`${one.reading} ${one.situation}`} className="flex items-center gap-2 border-t border-line">
                  <span className="grow break-words">
                    <b className="font-mono">{one.typed}</b> {labels.get(`${one.reading}@${one.situation}`) ?? one.reading}
                    <span className="text-sm text-soft">, {states.get(one.situation)?.label ?? one.situation}</span>
                  </span>
                  <Button look="quiet" aria-label={`Take out reading ${index + 1}`} onClick={() => drop(index)}>
                    <X size={18} aria-hidden />
                  </Button>
                </li>
              ))}
            </ul>
          </div>
        )}
        <OwnReading planId={planId} names={names} situations={choices.data?.situations ?? []} leads_ohm={leads_ohm} meter={meters.chosen} onTake={take} />
      </div>
      <div className="min-w-0 space-y-2" aria-live="polite">
        {ranking.error && (
          <p role="alert" className="border-l-4 border-stop bg-stop-wash p-2">
            {ranking.error.message}
          </p>
        )}
        {!asked && <p className="border border-line bg-sheet p-3">Say what does not do as it should, or type a reading. Every joint, fuse, wire, contact, battery, charger and device is then weighed against it, and the reading that tells most is named.</p>}
        {asked && found === undefined && ranking.isFetching && <p className="text-soft">Weighing every cause</p>}
        {found !== undefined && asked && (
          <>
            <h3 className="font-bold">What it may be</h3>
            {!found.explained && (
              <div className="border-l-4 border-fix bg-fix-wash p-2">
                <p className="font-semibold">No single fault explains these readings.</p>
                {found.two.map((pair) => (
                  <p key={`${pair.first.id} ${pair.second.id}`} className="text-sm">
                    {pair.first.text} ({pair.first.size}) and {pair.second.text} ({pair.second.size}), <b className="font-mono">{(100 * pair.share).toFixed(0)} %</b> of the pairs tried
                  </p>
                ))}
                <p className="text-sm">Or a reading is wrong: read the oddest again.</p>
              </div>
            )}
            {found.together != null && (
              <div className="border-l-4 border-look bg-look-wash p-2 text-sm">
                <p>
                  <b>Cannot be separated yet</b> ({percent(found.together.share, 0)} together): {found.together.texts.join("; ")}.
                </p>
                {found.together.parted_by == null ? (
                  <p>No reading separates them: inspect each.</p>
                ) : (
                  <p>
                    To separate them: <b>{found.together.parted_by.label}</b>. {found.together.parted_by.to_make}.
                  </p>
                )}
              </div>
            )}
            <ol aria-label="Causes, likeliest first" className="space-y-2">
              {found.suspects.filter((one, index) => index < 3 || one.share >= LEAST_SHARE).map((one, index) => (
                <SuspectCard key={one.id} suspect={one} place={index + 1} open={index === 0} onFound={add} onDone={() => put({ readings: [], symptoms: [] })} />
              ))}
            </ol>
            <p className="text-sm text-soft">
              Odds by common practice{Object.keys(found.finds).length > 0 && ", and by what this workshop has found so far"}. A verdict is a place to look, not a proof.
            </p>
          </>
        )}
      </div>
    </div>
  );
}
