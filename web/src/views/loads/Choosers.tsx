// The cells of the load list that are chosen rather than typed.
import { memo } from "react";
import type { Column } from "../../api/client";
import { useActions } from "../../parts/plan";
import { useDraft } from "../../parts/useDraft";
import { cellId, moveByKey } from "./grid";

export type Options = readonly (readonly [string, string])[];
type Place = { part: string; row: number; column: Column; label: string };

export const Pick = memo(function Pick({ part, row, column, label, value, options }: Place & { value: string; options: Options }) {
  const { edit } = useActions();
  const [shown, commit] = useDraft(value, (text) => edit([{ op: "set_cell", part, column, text, confirmed: false }]));
  return (
    <select
      id={cellId(row, column)}
      aria-label={label}
      className="cell"
      value={shown}
      onChange={(event) => commit(event.target.value)}
      onKeyDown={(event) => moveByKey(event, row, column) && event.preventDefault()}
    >
      {options.map(([id, text]) => (
        <option key={id} value={id}>
          {text}
        </option>
      ))}
    </select>
  );
});

export const Tick = memo(function Tick({ part, row, column, label, checked }: Place & { checked: boolean }) {
  const { edit } = useActions();
  const [shown, commit] = useDraft(checked, (on) =>
    edit([{ op: "set_cell", part, column, text: on ? "yes" : "no", confirmed: false }]),
  );
  return (
    <label className="flex h-11 items-center justify-center">
      <input
        id={cellId(row, column)}
        type="checkbox"
        className="size-5 accent-copper"
        aria-label={label}
        checked={shown}
        onChange={(event) => commit(event.target.checked)}
        onKeyDown={(event) => moveByKey(event, row, column) && event.preventDefault()}
      />
    </label>
  );
});

export const Feed = memo(function Feed({ part, label, value, options }: { part: string; label: string; value: string; options: Options }) {
  const { edit } = useActions();
  const [shown, commit] = useDraft(value, (on) =>
    edit([on === "" ? { op: "take_off", part } : { op: "put_load", part, on, reading: "one_way", confirmed: false }]),
  );
  return (
    <select aria-label={label} className="cell" value={shown} onChange={(event) => commit(event.target.value)}>
      <option value="">no circuit</option>
      {options.map(([id, text]) =>
        id === part ? null : (
          <option key={id} value={id}>
            {text}
          </option>
        ),
      )}
    </select>
  );
});
