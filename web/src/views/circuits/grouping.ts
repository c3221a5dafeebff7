// Runs put together by what they share: size, the block that feeds them, the place they lead to.
import type { Envelope, RunReport } from "../../api/client";
import { length } from "../../parts/format";

export const GROUPINGS = [
  ["none", "not grouped"],
  ["size", "by size"],
  ["block", "by block"],
  ["place", "by place"],
] as const;
export type Grouping = (typeof GROUPINGS)[number][0];
export type Group = { name: string; about: string; runs: RunReport[] };

export function grouped(runs: RunReport[], by: Grouping, { plan, report }: Envelope): Group[] {
  if (by === "none") return [{ name: "", about: "", runs }];
  const ends = new Map((plan.runs ?? []).map((run) => [run.id, run.finish.part]));
  const places = new Map((plan.places ?? []).map((place) => [place.id, place.name]));
  const stands = new Map((plan.parts ?? []).map((part) => [part.id, places.get(part.place ?? "")]));
  const nameOf = (run: RunReport): string => {
    if (by === "size") return run.wire.label;
    if (by === "block") return run.start_label;
    return stands.get(ends.get(run.id) ?? "") ?? "no place";
  };
  const found = new Map<string, RunReport[]>();
  for (const run of runs) found.set(nameOf(run), [...(found.get(nameOf(run)) ?? []), run]);
  const units = plan.units ?? "metric";
  const metres = new Map(report.summary.sizes.map((size) => [size.label, length(size.conductor_m, units)]));
  const groups = [...found].map(([name, held]) => {
    const count = held.length === 1 ? "1 run" : `${held.length} runs`;
    return { name, about: by === "size" && metres.has(name) ? `${count} · ${metres.get(name) ?? ""} of conductor on the van` : count, runs: held };
  });
  const order = report.summary.sizes.map((size) => size.label);
  return by === "size" ? groups.sort((a, b) => order.indexOf(a.name) - order.indexOf(b.name)) : groups;
}
