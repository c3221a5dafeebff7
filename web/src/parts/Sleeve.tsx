// The tag as it is printed on the wire: mono, square, the wire's colour at its left edge.
import clsx from "clsx";
import { PAINT } from "./paint";

export function Sleeve({ tag, colour, quiet = false }: { tag: string; colour: string; quiet?: boolean }) {
  return (
    <span
      className={clsx(
        "inline-block whitespace-nowrap border border-line bg-sheet py-0.5 pr-1.5 pl-1.5 font-mono text-sm leading-5 text-ink",
        quiet && "opacity-70",
      )}
      style={{ borderLeft: `6px solid ${PAINT[colour] ?? "#858c92"}` }}
    >
      {tag}
    </span>
  );
}
