// The reading that tells most for the work it takes.
import { MapPin, TriangleAlert } from "lucide-react";
import { useState } from "react";
import { toast } from "sonner";
import type { Schemas } from "../../api/client";
import { readMeter, type MeterPlace } from "../../api/prove";
import { Button } from "../../parts/Button";
import { number } from "../../parts/format";
import { Typed } from "../../parts/Typed";
import { WhereProbes } from "../../parts/WhereProbes";
import type { Taken } from "./known";

const REACH: Record<string, string> = { open: "at hand", panel: "behind a panel", closed: "behind a closed wall" };

type Props = { planId: string; next: Schemas["Next"]; best: boolean; same: boolean; waiting: boolean; meter: MeterPlace; leads_ohm: number; onTake: (taken: Taken) => void };

export function NextCard({ planId, next, best, same, waiting, meter, leads_ohm, onTake }: Props) {
  const [typed, setTyped] = useState("");
  const [where, setWhere] = useState(false);
  const [busy, setBusy] = useState(false);
  const take = (text: string) => {
    if (text.trim() !== "") onTake({ reading: next.reading, situation: next.situation, typed: text, leads_ohm });
  };
  const fromMeter = async () => {
    setBusy(true);
    try {
      take((await readMeter(planId, meter, next.reading, next.situation)).typed);
    } catch (error) {
      toast.error((error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  return (
    <section aria-label={best ? "Read next" : "Or read"} aria-busy={waiting} className={`border bg-sheet p-2 ${best ? "border-copper" : "border-line"}`}>
      <p className="text-sm text-soft">{best ? "Read next" : "Or read"}</p>
      <p className="font-semibold break-words">{next.label}</p>
      <p className="text-sm">{same ? "As it is now: " : ""}{next.to_make}</p>
      {next.caution !== "" && !same && (
        <p className="my-1 flex gap-2 border-l-4 border-copper bg-copper-wash p-1.5 text-sm">
          <TriangleAlert size={16} aria-hidden className="mt-0.5 shrink-0" />
          {next.caution}
        </p>
      )}
      <p className="text-sm text-soft">
        With nothing wrong <b className="font-mono text-ink">{next.band}</b> · {REACH[next.reach] ?? next.reach} · some {number(next.minutes, 0)} min
      </p>
      <div className="flex flex-wrap items-end gap-2 pt-1">
        <Typed unit={next.unit} value={typed} onText={setTyped} onTake={take} />
        {meter.name !== "" && (
          <Button disabled={busy || waiting} onClick={() => void fromMeter()}>
            From the meter
          </Button>
        )}
        <Button look="quiet" aria-expanded={where} aria-label={`Where: ${next.label}`} onClick={() => setWhere(!where)}>
          <MapPin size={18} aria-hidden />
        </Button>
      </div>
      {where && <WhereProbes run={next.run} part={next.part} red={next.red} black={next.black} />}
    </section>
  );
}
