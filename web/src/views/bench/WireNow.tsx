// What the wire looks like at a moment: copper true to scale in its cover, which softens, blisters, smokes and is gone.
import type { Course } from "../../api/bench";

type State = "sound" | "softens" | "blisters" | "smokes" | "bare" | "melts" | "parts";
const ORDER: readonly State[] = ["parts", "melts", "bare", "smokes", "blisters", "softens"];
const SAYS: Record<State, string> = {
  sound: "sound",
  softens: "soft",
  blisters: "blistered",
  smokes: "smoking",
  bare: "burnt bare",
  melts: "melting",
  parts: "parted",
};

function stateAt(course: Course, where: string, frame: number): State {
  const seen = new Set(course.happened.filter((one) => one.where === where && one.frame <= frame).map((one) => one.what));
  return ORDER.find((one) => seen.has(one)) ?? "sound";
}

export function WireNow({ course, frame, width }: { course: Course; frame: number; width: number }) {
  const wire = stateAt(course, "wire", frame);
  const joint = stateAt(course, "joint", frame);
  const opened = course.happened.some((one) => one.what === "opens" && one.frame <= frame);
  const cover = width + 12;
  const gone = wire === "bare" || wire === "melts" || wire === "parts";
  return (
    <figure className="flex flex-wrap items-center gap-x-3">
      <svg viewBox="0 8 260 32" width="260" height="32" role="img" aria-label={`Wire ${SAYS[wire]}, joint ${SAYS[joint]}`} className="shrink-0">
        {!gone && (
          <path
            d={wire === "sound" ? "M40 24H250" : wire === "softens" ? "M40 24C90 27 150 21 250 25" : "M40 24C60 29 70 18 90 25S130 30 150 22S200 19 250 26"}
            stroke={wire === "smokes" ? "var(--soft)" : "var(--zinc)"}
            strokeWidth={cover}
            fill="none"
            strokeDasharray={wire === "blisters" ? "26 3" : wire === "smokes" ? "14 7" : undefined}
          />
        )}
        <path d={wire === "parts" ? "M10 24H128M158 24H250" : "M10 24H250"} stroke={gone ? "var(--stop)" : "var(--copper)"} strokeWidth={width} fill="none" />
        <path d="M4 14H34V34H4Z" fill={joint === "sound" || joint === "softens" ? "var(--copper-wash)" : "var(--stop-wash)"} stroke={joint === "sound" ? "var(--ink)" : "var(--stop)"} strokeWidth="1.5" />
        <path d="M14 24H24" stroke="var(--ink)" strokeWidth="3" />
      </svg>
      <figcaption className="text-sm">
        Wire <b>{SAYS[wire]}</b>, joint <b>{SAYS[joint]}</b>
        {course.setup.fuse != null && (
          <>
            , fuse <b>{opened ? "open" : "whole"}</b>
          </>
        )}
      </figcaption>
    </figure>
  );
}
