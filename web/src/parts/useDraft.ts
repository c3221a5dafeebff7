// What a person just chose stays on screen until the program has answered; a refusal brings the old value back.
import { useState } from "react";

export function useDraft<T>(value: T, send: (next: T) => Promise<boolean>): [T, (next: T) => void] {
  const [draft, setDraft] = useState<{ next: T } | null>(null);
  const commit = (next: T) => {
    setDraft({ next });
    void send(next).finally(() => setDraft(null));
  };
  return [draft === null ? value : draft.next, commit];
}
