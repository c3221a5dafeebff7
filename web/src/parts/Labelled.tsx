// A field that keeps its own text while it is typed in and hands it over when it is left or Enter is pressed.
import { useId, useState } from "react";
import { useDraft } from "./useDraft";

export function TextField(props: {
  label: string;
  value: string;
  onCommit: (text: string) => void;
  hint?: string;
  long?: boolean;
  inputMode?: "decimal" | "text";
}) {
  const id = useId();
  const [draft, setDraft] = useState<string | null>(null);
  const [seen, setSeen] = useState(props.value);
  if (seen !== props.value) {
    setSeen(props.value);
    setDraft(null);
  }
  const text = draft ?? props.value;
  const commit = () => {
    if (draft !== null && draft !== props.value) props.onCommit(draft);
  };
  const shared = {
    id,
    value: text,
    onBlur: commit,
    className: "field",
    "aria-describedby": props.hint ? `${id}-hint` : undefined,
  };
  return (
    <div>
      <label htmlFor={id} className="mb-1 block text-sm font-semibold">
        {props.label}
      </label>
      {props.long ? (
        <textarea {...shared} rows={2} onChange={(event) => setDraft(event.target.value)} />
      ) : (
        <input
          {...shared}
          inputMode={props.inputMode}
          onChange={(event) => setDraft(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === "Enter") commit();
            if (event.key === "Escape") setDraft(null);
          }}
        />
      )}
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
  options: readonly (readonly [string, string])[];
  onChange: (value: string) => unknown;
}) {
  const id = useId();
  const [shown, commit] = useDraft(props.value, async (next) => Boolean(await props.onChange(next)));
  return (
    <div>
      <label htmlFor={id} className="mb-1 block text-sm font-semibold">
        {props.label}
      </label>
      <select id={id} className="field" value={shown} onChange={(event) => commit(event.target.value)}>
        {props.options.map(([value, text]) => (
          <option key={value} value={value}>
            {text}
          </option>
        ))}
      </select>
    </div>
  );
}

export function Check(props: { label: string; checked: boolean; onChange: (on: boolean) => unknown }) {
  const [shown, commit] = useDraft(props.checked, async (next) => Boolean(await props.onChange(next)));
  return (
    <label className="flex min-h-11 items-center gap-2 text-sm">
      <input type="checkbox" className="size-5 accent-copper" checked={shown} onChange={(event) => commit(event.target.checked)} />
      {props.label}
    </label>
  );
}
