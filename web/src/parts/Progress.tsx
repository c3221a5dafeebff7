// How far a long work has come.
import { Progress as Radix } from "radix-ui";

export function Progress({ label, done_frac }: { label: string; done_frac: number }) {
  return (
    <Radix.Root aria-label={label} value={done_frac} max={1} className="h-3 w-40 overflow-hidden border border-line bg-zinc">
      <Radix.Indicator className="h-full origin-left bg-copper" style={{ transform: `scaleX(${done_frac})` }} />
    </Radix.Root>
  );
}
