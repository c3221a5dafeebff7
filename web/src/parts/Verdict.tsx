// A verdict by shape and word as well as by colour.
import clsx from "clsx";

export type Grade = "stop" | "fix" | "look" | "good";

const SHAPE: Record<Grade, string> = { stop: "▲", fix: "◆", look: "●", good: "✓" };
const COLOUR: Record<Grade, string> = {
  stop: "text-stop",
  fix: "text-fix",
  look: "text-look",
  good: "text-good",
};

export function Verdict({ grade, word = true }: { grade: Grade; word?: boolean }) {
  return (
    <span className={clsx("inline-flex items-center gap-1 font-semibold", COLOUR[grade])}>
      <span aria-hidden="true">{SHAPE[grade]}</span>
      <span className={clsx(!word && "sr-only")}>{grade}</span>
    </span>
  );
}
