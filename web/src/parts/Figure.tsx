// A shown figure that opens to its working; it underlines itself once in copper when it changes.
import { memo, useEffect, useRef, useState } from "react";
import { useActions } from "./plan";

type Props = { workingKey: string; text: string; label: string; plain?: boolean; small?: boolean };

export const Figure = memo(function Figure({ workingKey, text, label, plain = false, small = false }: Props) {
  const { openWorking } = useActions();
  const before = useRef(text);
  const [turn, setTurn] = useState(0);
  useEffect(() => {
    if (before.current !== text) {
      before.current = text;
      setTurn((count) => count + 1);
    }
  }, [text]);
  if (plain) return <span className="px-1.5">{text}</span>;
  return (
    <button
      type="button"
      key={turn}
      aria-label={`${label}: ${text}. Show working`}
      onClick={(event) => {
        event.stopPropagation();
        openWorking(workingKey);
      }}
      className={`${small ? "min-h-6 text-xs text-soft" : "min-h-9"} px-1.5 text-left whitespace-nowrap underline decoration-line decoration-dotted underline-offset-4 hover:bg-zinc hover:decoration-copper ${turn > 0 ? "changed" : ""}`}
    >
      {text}
    </button>
  );
});
