// One of a few, side by side, for what is switched often: which findings, which days, grouped how.
import { ToggleGroup } from "radix-ui";
import type { ReactNode } from "react";

export function OneOf<Value extends string>(props: {
  label: string;
  value: Value | "";
  options: readonly (readonly [value: Value, text: ReactNode])[];
  onChange: (value: Value) => void;
  disabled?: boolean;
}) {
  return (
    <ToggleGroup.Root
      type="single"
      aria-label={props.label}
      value={props.value}
      disabled={props.disabled}
      // Pressing the pressed one again asks for nothing: one of them always holds.
      onValueChange={(value) => value !== "" && props.onChange(value as Value)}
      className="flex flex-wrap"
    >
      {props.options.map(([value, text]) => (
        <ToggleGroup.Item
          key={value}
          value={value}
          className="-ml-px inline-flex min-h-11 items-center gap-2 border border-line bg-sheet px-3 font-medium first:ml-0 hover:bg-zinc disabled:opacity-45 data-[state=on]:font-bold data-[state=on]:shadow-[inset_0_-4px_0_var(--copper)]"
        >
          {text}
        </ToggleGroup.Item>
      ))}
    </ToggleGroup.Root>
  );
}
