// The way to the bench with a run's own figures: what it carries, or a short at its end.
import { Flame } from "lucide-react";
import { Link } from "react-router";
import { usePlan } from "./plan";

// What a finding is about: a short, or what flows in service.
const SHORT = /^(fault-|fuse-missing|fuse-one-end|fuse-too-far|fuse-above-wire|fuse-parallel|step-unfused|breaking-)/;
const SERVICE = /^(wire-over-|wire-insulation-cool|wire-below-least|joint-over|inrush-opens|cycle-trips|fuse-below-load|fuse-at-load)/;

export function benchOf(code: string): "short" | "load" | null {
  return SHORT.test(code) ? "short" : SERVICE.test(code) ? "load" : null;
}

export function BenchLink({ run, tag, happens }: { run: string; tag: string; happens: "short" | "load" }) {
  const { envelope } = usePlan();
  return (
    <Link
      to={`/bench?plan=${envelope.plan_id}&run=${run}&happens=${happens}`}
      className="inline-flex min-h-11 items-center justify-center gap-2 border border-line bg-sheet px-3 text-[15px] font-medium hover:bg-zinc"
    >
      <Flame size={18} aria-hidden /> {tag} on the bench
    </Link>
  );
}
