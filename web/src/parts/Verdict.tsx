// A verdict by shape and word as well as by colour. Where a person is to find what is wrong, none is shown.
import clsx from "clsx";
import { createContext, useContext } from "react";

export type Grade = "stop" | "fix" | "look" | "good";

export const Judging = createContext(true);

const SHAPE: Record<Grade, string> = { stop: "▲", fix: "◆", look: "●", good: "✓" };
const COLOUR: Record<Grade, string> = {
  stop: "text-stop",
  fix: "text-fix",
  look: "text-look",
  good: "text-good",
};

export function Verdict({ grade, word = true }: { grade: Grade; word?: boolean }) {
  if (!useContext(Judging)) return <span className="text-soft" aria-label="not judged">–</span>;
  return (
    <span className={clsx("inline-flex items-center gap-1 font-semibold", COLOUR[grade])}>
      <span aria-hidden="true">{SHAPE[grade]}</span>
      <span className={clsx(!word && "sr-only")}>{grade}</span>
    </span>
  );
}
