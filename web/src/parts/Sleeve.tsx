// The tag as it is printed on the wire: mono, square, the wire's colour at its left edge.
import clsx from "clsx";

const PAINT: Record<string, string> = {
  red: "#c22f2a",
  black: "#17191b",
  yellow: "#e2bd1c",
  brown: "#6d4424",
  blue: "#2b62ad",
  green: "#2f7d43",
  white: "#f7f7f5",
  orange: "#dd7420",
  grey: "#858c92",
  purple: "#6f4a96",
  pink: "#d98aa5",
  tan: "#c7a478",
};

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
