// What is known of the fault that is being looked for: kept in this browser until it is found.
import { useCallback, useState } from "react";
import type { Schemas } from "../../api/client";

export type Taken = Schemas["TakenIn"];
export type Known = { readings: Taken[]; symptoms: Schemas["SymptomIn"][] };

const NOTHING: Known = { readings: [], symptoms: [] };
/** Readings of another day are not weighed together: batteries stood elsewhere then. */
export const SAME_DAY_MS = 12 * 3600 * 1000;
const key = (planId: string) => `lucernis-fault-${planId}`;

function read(planId: string): Known {
  try {
    const kept = JSON.parse(localStorage.getItem(key(planId)) ?? "null") as Partial<Known> | null;
    return { readings: kept?.readings ?? [], symptoms: kept?.symptoms ?? [] };
  } catch {
    return NOTHING;
  }
}

function write(planId: string, known: Known): void {
  try {
    localStorage.setItem(key(planId), JSON.stringify(known));
  } catch {
    // A private window: it lasts as long as the page.
  }
}

/** Begin with one reading that is out of band. */
export function startFault(planId: string, taken: Taken): void {
  const known = read(planId);
  const others = known.readings.filter((one) => one.reading !== taken.reading || one.situation !== taken.situation);
  write(planId, { ...known, readings: [...others, taken] });
}

/** What is known of the fault of a plan, and how to say more or to begin anew. */
export function useKnown(planId: string): [Known, (next: Known) => void] {
  const [known, setKnown] = useState(() => read(planId));
  const put = useCallback(
    (next: Known) => {
      write(planId, next);
      setKnown(next);
    },
    [planId],
  );
  return [known, put];
}
