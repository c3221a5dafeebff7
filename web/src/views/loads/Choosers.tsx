// The cells of the load list that are chosen rather than typed.
import type { Column } from "../../api/client";
import { useDraft } from "../../parts/useDraft";
import { cellId, moveByKey } from "./grid";

export function Pick(props: {
  label: string;
  value: string;
  options: readonly (readonly [string, string])[];
  place?: { row: number; column: Column };
  onPick: (value: string) => Promise<boolean>;
}) {
  const [shown, commit] = useDraft(props.value, props.onPick);
  const { place } = props;
  return (
    <select
      id={place && cellId(place.row, place.column)}
      aria-label={props.label}
      className="cell"
      value={shown}
      onChange={(event) => commit(event.target.value)}
      onKeyDown={(event) => place && moveByKey(event, place.row, place.column) && event.preventDefault()}
    >
      {props.options.map(([id, text]) => (
        <option key={id} value={id}>
          {text}
        </option>
      ))}
    </select>
  );
}

export function Tick(props: { label: string; checked: boolean; row: number; column: Column; onTick: (on: boolean) => Promise<boolean> }) {
  const [shown, commit] = useDraft(props.checked, props.onTick);
  return (
    <label className="flex h-11 items-center justify-center">
      <input
        id={cellId(props.row, props.column)}
        type="checkbox"
        className="size-5 accent-copper"
        aria-label={props.label}
        checked={shown}
        onChange={(event) => commit(event.target.checked)}
        onKeyDown={(event) => moveByKey(event, props.row, props.column) && event.preventDefault()}
      />
    </label>
  );
}
