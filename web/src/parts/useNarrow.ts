// Whether the screen is one held in a hand: then rows are cards.
import { useSyncExternalStore } from "react";

const NARROW = "(max-width: 40rem)";

function subscribe(told: () => void): () => void {
  const query = window.matchMedia(NARROW);
  query.addEventListener("change", told);
  return () => query.removeEventListener("change", told);
}

export function useNarrow(): boolean {
  return useSyncExternalStore(subscribe, () => window.matchMedia(NARROW).matches);
}
