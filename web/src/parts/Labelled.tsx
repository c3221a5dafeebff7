// A field that keeps its own text while it is typed in and hands it over when it is left or Enter is pressed.
import { useId, useRef, useState } from "react";
import { Ticked } from "./Checkbox";
import { Keys } from "./Keys";
import { Select, type Options } from "./Select";
import { useDraft } from "./useDraft";
import { useNarrow } from "./useNarrow";

export function TextField(props: {
  label: string;
  value: string;
  onCommit: (text: string) => void;
  // For a form that is sent as a whole: told with every sign.
  onText?: (text: string) => void;
  hint?: string;
  long?: boolean;
  inputMode?: "decimal" | "text";
  // In the hand the field brings its own keys, with these units.
  keys?: readonly string[] | undefined;
}) {
  const id = useId();
  const field = useRef<HTMLInputElement>(null);
  const narrow = useNarrow();
  const [inside, setInside] = useState<"no" | "fresh" | "typing">("no");
  const ownKeys = narrow && props.keys !== undefined;
  const [draft, setDraft] = useState<string | null>(null);
  const [seen, setSeen] = useState(props.value);
  if (seen !== props.value) {
    setSeen(props.value);
    setDraft(null);
  }
  const text = draft ?? props.value;
  const type = (next: string) => {
    setDraft(next);
    setInside("typing");
    props.onText?.(next);
  };
  const commit = () => {
    if (draft !== null && draft !== props.value) props.onCommit(draft);
  };
  const shared = {
    id,
    value: text,
    onBlur: () => {
      setInside("no");
      commit();
    },
    onFocus: () => setInside("fresh"),
    className: "field",
    "aria-describedby": props.hint ? `${id}-hint` : undefined,
  };
  return (
    <div>
      <label htmlFor={id} className="mb-1 block text-sm font-semibold">
        {props.label}
      </label>
      {props.long ? (
        <textarea {...shared} rows={2} onChange={(event) => type(event.target.value)} />
      ) : (
        <input
          {...shared}
          ref={field}
          inputMode={ownKeys ? "none" : props.inputMode}
          onChange={(event) => type(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === "Enter") commit();
            if (event.key === "Escape") setDraft(null);
          }}
        />
      )}
      {ownKeys && inside !== "no" && <Keys typed={inside === "fresh" ? null : text} units={props.keys ?? []} onText={type} onDone={() => field.current?.blur()} />}
      {props.hint && (
        <p id={`${id}-hint`} className="mt-1 text-sm text-soft">
          {props.hint}
        </p>
      )}
    </div>
  );
}

export function Choice(props: {
  label: string;
  value: string;
  options: Options;
  onChange: (value: string) => unknown;
}) {
  const id = useId();
  const [shown, commit] = useDraft(props.value, async (next) => Boolean(await props.onChange(next)));
  return (
    <div>
      <label htmlFor={id} className="mb-1 block text-sm font-semibold">
        {props.label}
      </label>
      <Select id={id} value={shown} options={props.options} onChange={commit} />
    </div>
  );
}

export function Check(props: { label: string; checked: boolean; onChange: (on: boolean) => unknown }) {
  const [shown, commit] = useDraft(props.checked, async (next) => Boolean(await props.onChange(next)));
  return <Ticked text={props.label} checked={shown} onChange={commit} />;
}
