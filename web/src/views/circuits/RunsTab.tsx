// Every run with its wire and fuse: which is the worst, and why. Sort, filter, search; a row opens all of a run.
import { useEffect, useMemo, useState } from "react";
import { useSearchParams } from "react-router";
import type { RunReport } from "../../api/client";
import { Figure } from "../../parts/Figure";
import { amps, length, percent, strokePixels } from "../../parts/format";
import { LABELS } from "../../parts/labels";
import { runFigures, usePlan } from "../../parts/plan";
import { Select } from "../../parts/Select";
import { Sleeve } from "../../parts/Sleeve";
import { useNarrow } from "../../parts/useNarrow";
import { Verdict, type Grade } from "../../parts/Verdict";
import { fuseText } from "./fuseText";
import { grouped, GROUPINGS, type Grouping } from "./grouping";
import { RunCards } from "./RunCards";

type Key = "tag" | "what" | "length" | "amps" | "area" | "fuse" | "drop" | "margin" | "verdict";
const GRADE: Record<string, number> = { stop: 0, fix: 1, look: 2, good: 3 };

const SORTS: Record<Key, (run: RunReport) => number | string> = {
  tag: (run) => run.tag,
  what: (run) => (run.name || run.finish_label).toLowerCase(),
  length: (run) => run.length_m,
  amps: (run) => run.design_current_a,
  area: (run) => run.wire.area_mm2,
  fuse: (run) => run.fuse?.rating_a ?? 0,
  drop: (run) => run.worst.conductor_drop_to_end_frac,
  margin: (run) => run.margin_frac ?? 9,
  verdict: (run) => GRADE[run.verdict] ?? 3,
};

const HEADS: [Key, string][] = [
  ["tag", LABELS.quantities.tag],
  ["what", LABELS.quantities.name],
  ["length", `${LABELS.quantities.length_m} / loop`],
  ["amps", LABELS.quantities.design_current_a],
  ["area", LABELS.quantities.wire],
  ["fuse", LABELS.quantities.fuse],
  ["drop", LABELS.quantities.conductor_drop_to_end_frac],
  ["margin", LABELS.quantities.margin_frac],
  ["verdict", LABELS.quantities.verdict],
];

// What goes first when a sheet stands beside the table: it is all in the sheet.
const BESIDE = new Set<Key>(["length", "amps", "margin"]);
const AWAY = "@max-4xl:hidden";

const KINDS = [
  ["all", "all runs"],
  ["open", "with findings"],
  ["pinned", "pinned"],
] as const;

export function RunsTab() {
  const { envelope, stateId } = usePlan();
  const [search, setSearch] = useSearchParams();
  const [text, setText] = useState("");
  const [only, setOnly] = useState("all");
  const group = (search.get("by") ?? "none") as Grouping;
  const [sort, setSort] = useState<{ key: Key; down: boolean }>({ key: "tag", down: false });
  const units = envelope.plan.units ?? "metric";
  const colour = envelope.plan.wire_colours?.positive ?? "red";
  const picked = search.get("run");
  const narrow = useNarrow();
  const pick = (id: string | null) =>
    setSearch((before) => {
      const next = new URLSearchParams(before);
      if (id === null) next.delete("run");
      else next.set("run", id);
      return next;
    });
  const shown = useMemo(() => {
    const words = text.toLowerCase().split(/\s+/).filter(Boolean);
    const kept = envelope.report.runs.filter((run) => {
      const hay = `${run.tag} ${run.name} ${run.start_label} ${run.finish_label} ${run.wire.label} ${fuseText(run)} ${run.role}`.toLowerCase();
      if (only === "open" && run.verdict === "good") return false;
      if (only === "pinned" && !run.wire.pinned && !(run.fuse?.pinned ?? false)) return false;
      return words.every((word) => hay.includes(word));
    });
    const by = SORTS[sort.key];
    return kept.sort((a, b) => {
      const [x, y] = [by(a), by(b)];
      const order = typeof x === "string" ? x.localeCompare(String(y), undefined, { numeric: true }) : x < Number(y) ? -1 : x > Number(y) ? 1 : 0;
      return sort.down ? -order : order;
    });
  }, [envelope.report.runs, text, only, sort]);
  const worst = envelope.report.summary.worst_drop_frac;
  const groups = useMemo(() => grouped(shown, group, envelope), [shown, group, envelope]);
  // The row that was opened stays in sight while the table narrows beside its sheet.
  useEffect(() => {
    if (picked !== null) document.getElementById(`run-${picked}`)?.scrollIntoView({ block: "nearest" });
  }, [picked]);
  return (
    <section aria-label="Runs">
      <div className="mb-3 flex flex-wrap items-end gap-x-4 gap-y-2">
        <p className="grow basis-36 text-soft">
          {worst.subject === null ? "No load is fed yet." : `Worst at the device: ${percent(worst.value)} at ${worst.tag}.`}
        </p>
        <label className="text-sm">
          <span className="sr-only">Search runs</span>
          <input type="search" className="field w-32" placeholder="Search runs" value={text} onChange={(event) => setText(event.target.value)} />
        </label>
        <Select label="Show runs" className="field max-w-32" value={only} options={KINDS} onChange={setOnly} />
        <Select
          label="Group runs"
          className="field max-w-32"
          value={group}
          options={GROUPINGS}
          onChange={(by) =>
            setSearch((before) => {
              const next = new URLSearchParams(before);
              if (by === "none") next.delete("by");
              else next.set("by", by);
              return next;
            })
          }
        />
      </div>
      {envelope.report.runs.length === 0 ? (
        <p className="border border-dashed border-line bg-sheet p-8 text-center">No runs yet. Put a load on a block under Loads, or feed a part under Parts.</p>
      ) : narrow ? (
        <RunCards groups={groups} onPick={pick} />
      ) : (
        <div className="relative overflow-x-auto border border-line bg-sheet" tabIndex={0} role="region" aria-label="Runs, scrolls sideways">
          <table className="w-full border-collapse">
            <thead className="bg-zinc">
              <tr>
                {HEADS.map(([key, name]) => (
                  <th key={key} scope="col" className={`head ${BESIDE.has(key) ? AWAY : ""}`} aria-sort={sort.key === key ? (sort.down ? "descending" : "ascending") : "none"}>
                    <button type="button" className="min-h-9 text-left font-semibold hover:underline" onClick={() => setSort({ key, down: sort.key === key && !sort.down })}>
                      {name} {sort.key === key ? (sort.down ? "↓" : "↑") : ""}
                    </button>
                  </th>
                ))}
              </tr>
            </thead>
            {groups.map((here) => (
            <tbody key={here.name}>
              {here.name !== "" && (
                <tr className="border-t border-line bg-zinc">
                  <th scope="rowgroup" colSpan={9} className="px-1.5 py-1.5 text-left text-sm">
                    {here.name} <span className="font-normal text-soft">{here.about}</span>
                  </th>
                </tr>
              )}
              {here.runs.map((one) => {
                const now = runFigures(one, stateId);
                return (
                  <tr
                    key={one.id}
                    id={`run-${one.id}`}
                    className={`cursor-pointer border-t border-line hover:bg-zinc ${one.id === picked ? "bg-copper-wash" : ""}`}
                    onClick={() => pick(one.id)}
                  >
                    <th scope="row" className="px-1.5 py-1 text-left font-normal">
                      <button type="button" className="min-h-9" aria-label={`Open run ${one.tag}`} onClick={() => pick(one.id)}>
                        <Sleeve tag={one.tag} colour={colour} quiet={!one.fed} />
                      </button>
                    </th>
                    <td className="px-1.5 py-1">
                      <span className={one.role === "main" || one.role === "feeder" ? "font-semibold" : ""}>{one.name || one.finish_label}</span>
                      <span className="block text-xs text-soft">
                        from {one.start_label}
                        {one.legs !== "both" && ` · ${one.legs} only`}
                      </span>
                    </td>
                    <td className={`px-1.5 py-1 whitespace-nowrap ${AWAY}`}>
                      <Figure workingKey={`${one.id}.length_m`} text={`${one.length_guessed ? "~" : ""}${length(one.length_m, units)} / ${length(one.loop_length_m, units)}`} label={`Length of ${one.tag}`} />
                    </td>
                    <td className={`py-1 text-right ${AWAY}`}>
                      <Figure workingKey={`${one.id}.design_current_a`} text={amps(stateId === null ? one.design_current_a : now.current_a)} label={`Current of ${one.tag}`} />
                    </td>
                    <td className="px-1.5 py-1">
                      <span className="flex items-center gap-2">
                        <span aria-hidden className="w-7 shrink-0 bg-copper" style={{ height: `${strokePixels(one.wire.diameter_mm)}px` }} />
                        <span>
                          <Figure workingKey={`${one.id}.wire`} text={one.parallel > 1 ? `${one.parallel} × ${one.wire.label}` : one.wire.label} label={`Wire of ${one.tag}`} />
                          <span className="block pl-1.5 text-xs whitespace-nowrap text-soft">
                            carries {amps(one.wire.ampacity_a)}
                            {one.wire.pinned && <b className="text-copper"> · pinned</b>}
                          </span>
                        </span>
                      </span>
                    </td>
                    <td className="px-1.5 py-1">
                      <Figure workingKey={`${one.id}.fuse`} text={fuseText(one)} label={`Fuse of ${one.tag}`} plain={one.fuse === null} />
                      <span className="block pl-1.5 text-xs whitespace-nowrap text-soft">
                        {one.fuse?.family_label ?? ""}
                        {one.fuse?.pinned && <b className="text-copper"> · pinned</b>}
                      </span>
                    </td>
                    <td className="py-1 text-right whitespace-nowrap">
                      <Figure workingKey={`${one.id}.drop_to_end`} text={one.spare ? "–" : percent(now.conductor_drop_to_end_frac)} label={`Drop in the conductors to the end of ${one.tag}`} plain={!one.fed} />
                      <span className="block px-1.5 text-xs text-soft">{one.spare ? "spare" : `in all ${percent(now.drop_to_end_frac)}`}</span>
                    </td>
                    <td className={`px-1.5 py-1 text-right whitespace-nowrap ${AWAY}`}>
                      <Figure workingKey={`${one.id}.margin_frac`} text={percent(one.margin_frac)} label={`Margin behind ${one.tag}`} plain={one.margin_frac === null} />
                      <span className="block text-xs text-soft">of {percent(one.limit_frac, 0)}</span>
                    </td>
                    <td className="px-1.5 py-1">
                      <Verdict grade={one.verdict as Grade} />
                    </td>
                  </tr>
                );
              })}
            </tbody>
            ))}
            {shown.length === 0 && (
              <tbody>
                <tr>
                  <td colSpan={9} className="p-6 text-center">
                    No run matches.
                  </td>
                </tr>
              </tbody>
            )}
          </table>
        </div>
      )}
      {envelope.report.summary.sizes.length > 0 && (
        <p className="mt-2 text-sm text-soft">
          Sizes in use, length of conductor:{" "}
          {envelope.report.summary.sizes.map((one) => `${one.label} ${length(one.conductor_m, units)} in ${one.runs} ${one.runs === 1 ? "run" : "runs"}`).join(" · ")}
        </p>
      )}
    </section>
  );
}
