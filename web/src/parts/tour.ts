// The tour: five minutes on the caravan as it was found, whose three worst findings are mended by hand. What they are was
// written down when it began.
import { useCallback, useSyncExternalStore } from "react";

export type Tour = { plan: string; findings: { code: string; subject: string; tag: string; what: string; mend: string }[] };

const KEPT = "lucernis-tour";
const listeners = new Set<() => void>();

function read(): string {
  try {
    return localStorage.getItem(KEPT) ?? "";
  } catch {
    return "done";
  }
}

function write(text: string): void {
  try {
    localStorage.setItem(KEPT, text);
  } catch {
    // A private window: it is asked again.
  }
  listeners.forEach((listener) => listener());
}

function subscribe(listener: () => void): () => void {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

/** "" where nobody was asked yet, "done" once it is over or refused, or the tour. */
export function useTour() {
  const text = useSyncExternalStore(subscribe, read);
  const begin = useCallback((tour: Tour) => write(JSON.stringify(tour)), []);
  const end = useCallback(() => write("done"), []);
  let tour: Tour | null = null;
  if (text !== "" && text !== "done")
    try {
      tour = JSON.parse(text) as Tour;
    } catch {
      tour = null;
    }
  return { asked: text !== "", tour, begin, end };
}
