// Which pieces are cut already, by the record; and how to note one.
import { useQuery } from "@tanstack/react-query";
import { orderQuery, recordQuery, useRecord } from "../../api/record";
import { usePlan } from "../../parts/plan";

export type CutTick = { done: boolean; otherwise: boolean; pending: boolean; flip: () => void };

/** By the id of a piece. */
export function useCutTicks(): (piece: string) => CutTick | null {
  const { envelope } = usePlan();
  const record = useQuery(recordQuery(envelope.plan_id));
  const order = useQuery(orderQuery(envelope.plan_id, envelope.revision, record.data?.length ?? 0));
  const { onTheWay, add } = useRecord(envelope.plan_id);
  if (!order.data || !record.data) return () => null;
  const taken = new Set(record.data.map((one) => one.takes_back));
  const standing = new Map(record.data.filter((one) => one.kind === "done" && !taken.has(one.number)).map((one) => [one.subject, one]));
  const steps = order.data.progress.steps.map((state) => state.step).filter((step) => step.phase === "cut");
  const known = new Map(steps.flatMap((step) => step.made_of.map((one) => [one.id, { as: one.done_as, step }] as const)));
  const going = new Set(onTheWay.map((one) => (one.kind === "done" ? one.subject : `#${one.takes_back}`)));
  return (piece) => {
    const subject = `piece:${piece}`;
    const found = known.get(subject);
    if (found === undefined) return null;
    // The whole run may have been ticked at once.
    const own = standing.get(subject);
    const whole = standing.get(found.step.id);
    const entry = own ?? whole;
    const fits = own !== undefined ? own.was === found.as : whole?.was === found.step.done_as;
    return {
      done: entry !== undefined && fits,
      otherwise: entry !== undefined && !fits,
      pending: going.has(subject) || (entry !== undefined && going.has(`#${entry.number}`)),
      flip: () => add(entry !== undefined && fits ? { kind: "back", takes_back: entry.number } : { kind: "done", subject, was: found.as }),
    };
  };
}
