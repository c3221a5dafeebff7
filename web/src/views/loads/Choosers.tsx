// The cells of the load list that are chosen rather than typed.
import { memo } from "react";
import type { Column } from "../../api/client";
import { Checkbox } from "../../parts/Checkbox";
import { useActions } from "../../parts/plan";
import { Select, type Options } from "../../parts/Select";
import { useDraft } from "../../parts/useDraft";
import { cellId, moveByKey } from "./grid";

type Place = { part: string; row: number; column: Column; label: string };

export const Pick = memo(function Pick({ part, row, column, label, value, options }: Place & { value: string; options: Options }) {
  const { edit } = useActions();
  const [shown, commit] = useDraft(value, (text) => edit([{ op: "set_cell", part, column, text, confirmed: false }]));
  return (
    <Select
      id={cellId(row, column)}
      label={label}
      className="cell"
      value={shown}
      options={options}
      onChange={commit}
      // Space or a letter opens or chooses; Enter and the arrows move on, as in every cell.
      onKeyDown={(event) => moveByKey(event, row, column) && event.preventDefault()}
    />
  );
});

export const Tick = memo(function Tick({ part, row, column, label, checked }: Place & { checked: boolean }) {
  const { edit } = useActions();
  const [shown, commit] = useDraft(checked, (on) =>
    edit([{ op: "set_cell", part, column, text: on ? "yes" : "no", confirmed: false }]),
  );
  return (
    <label className="flex h-11 items-center justify-center">
      <Checkbox
        id={cellId(row, column)}
        label={label}
        checked={shown}
        onChange={commit}
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
  return <Select label={label} className="cell" value={shown} options={[["", "no circuit"], ...options.filter(([id]) => id !== part)]} onChange={commit} />;
});
