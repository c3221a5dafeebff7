// A number that may be left empty; what is not a number goes to the server as it is and is refused there by name.
import { typed } from "./format";
import { TextField } from "./Labelled";

export function NumberField(props: { label: string; value: number | null | undefined; hint?: string; percent?: boolean; onCommit: (value: number | string | null) => unknown }) {
  return (
    <TextField
      label={props.label}
      inputMode="decimal"
      keys={[]}
      value={typed(props.percent && props.value != null ? 100 * props.value : props.value)}
      hint={props.hint ?? ""}
      onCommit={(text) => {
        const clean = text.trim().replace(",", ".");
        const value = Number(clean);
        void props.onCommit(clean === "" ? null : Number.isFinite(value) ? (props.percent ? value / 100 : value) : clean);
      }}
    />
  );
}
