// The order of work. Each step shows how many open findings it holds, by its gravest shape.
import { useQuery } from "@tanstack/react-query";
import { Link, NavLink, useLocation } from "react-router";
import { daysQuery } from "../../api/plans";
import { Verdict, type Grade } from "../../parts/Verdict";
import { usePlan } from "../../parts/plan";
import { isSource } from "../../parts/sources";

const STEPS = [
  ["vehicle", "Vehicle"],
  ["loads", "Loads"],
  ["power", "Power"],
  ["layout", "Layout"],
  ["circuits", "Circuits"],
  ["checks", "Checks"],
  ["build", "Build"],
  ["prove", "Prove"],
  ["log", "Log"],
] as const;

// What the Power view judges though it is said of a load or a run: an inverter against the bank, a charger's wire.
const ON_POWER = /^(inverter-|bank-|battery-|charger-|panel-|alternator-|isolator-)/;

// What the Layout view can mend though it is said of a run or of the whole.
const ON_LAYOUT = /^(run-no-way|lengths-guessed)$/;

export function Rail() {
  const { envelope } = usePlan();
  const { search } = useLocation();
  const open = envelope.report.findings.filter((one) => one.waived === null);
  const loads = new Set(envelope.report.loads.map((load) => load.id));
  const sources = new Set((envelope.plan.parts ?? []).filter(isSource).map((one) => one.id));
  const held: Record<string, typeof open> = {
    power: open.filter((one) => sources.has(one.subject) || ON_POWER.test(one.code)),
    loads: open.filter((one) => loads.has(one.subject)),
    layout: open.filter((one) => one.subject_kind === "channel" || ON_LAYOUT.test(one.code)),
    circuits: open.filter((one) => !loads.has(one.subject) && one.subject_kind !== "channel"),
    checks: open,
  };
  const { data } = useQuery(daysQuery(envelope.plan_id, envelope.revision, 7));
  const judged = [data?.forecast.lasting, data?.forecast.refilling].filter((one): one is Grade => one === "look" || one === "fix" || one === "stop");
  const kept = new URLSearchParams(search).get("state");
  const query = kept === null ? "" : `?state=${kept}`;
  return (
    <nav
      aria-label="Order of work"
      className="order-last flex min-w-0 relative overflow-x-auto border-t border-line bg-zinc md:order-none md:row-span-2 md:flex-col md:border-t-0 md:border-r"
    >
      {STEPS.map(([path, name]) => {
        const mine = held[path];
        // A view's own answers count as what it holds: a bank that does not last is a look nobody found in a wire.
        const answers = path === "power" ? judged : [];
        const worst = (mine?.[0]?.severity as Grade | undefined) ?? answers[0];
        const count = (mine?.length ?? 0) + answers.length;
        return (
          <NavLink
            key={path}
            to={{ pathname: path, search: query }}
            className={({ isActive }) =>
              `flex min-h-12 shrink-0 grow items-center justify-center gap-2 px-3 md:grow-0 md:justify-between ${isActive ? "bg-sheet font-bold shadow-[inset_4px_0_0_var(--copper)]" : "hover:bg-sheet"}`
            }
          >
            {name}
            {mine !== undefined && (
              <span className="text-sm whitespace-nowrap">
                {worst === undefined ? <Verdict grade="good" word={false} /> : <><Verdict grade={worst} word={false} /> {count}</>}
              </span>
            )}
          </NavLink>
        );
      })}
      <Link
        to={`/bench?plan=${envelope.plan_id}`}
        className="flex min-h-12 shrink-0 grow items-center justify-center gap-2 border-line px-3 text-soft hover:bg-sheet max-md:border-l-2 md:mt-3 md:grow-0 md:justify-between md:border-t-2"
      >
        Bench
      </Link>
      <Link to="/school" className="flex min-h-12 shrink-0 grow items-center justify-center gap-2 px-3 text-soft hover:bg-sheet md:grow-0 md:justify-between">
        School
      </Link>
    </nav>
  );
}
