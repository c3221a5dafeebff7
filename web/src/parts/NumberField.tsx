// A number that may be left empty; what is not a number goes to the server as it is and is refused there by name.
import { typed } from "./format";
import { TextField } from "./Labelled";

export function NumberField(props: { label: string; value: number | null | undefined; hint?: string; onCommit: (value: number | string | null) => unknown }) {
  return (
    <TextField
      label={props.label}
      inputMode="decimal"
      value={typed(props.value)}
      hint={props.hint ?? ""}
      onCommit={(text) => {
        const clean = text.trim().replace(",", ".");
        const value = Number(clean);
        void props.onCommit(clean === "" ? null : Number.isFinite(value) ? value : clean);
      }}
    />
  );
}
