// A length kept in metres and typed in the units of the plan; short ones in inches where feet are in use.
import { lengthUnit, metresOf, typedLength } from "./format";
import { NumberField } from "./NumberField";
import { usePlan } from "./plan";

export function LengthField(props: { label: string; value_m: number | null | undefined; hint?: string; short?: boolean; onCommit: (value_m: number | string | null) => unknown }) {
  const units = usePlan().envelope.plan.units ?? "metric";
  const short = props.short ?? false;
  return (
    <NumberField
      label={`${props.label}, ${lengthUnit(units, short)}`}
      hint={props.hint ?? ""}
      value={typedLength(props.value_m, units, short)}
      onCommit={(value) => props.onCommit(typeof value === "number" ? metresOf(value, units, short) : value)}
    />
  );
}
