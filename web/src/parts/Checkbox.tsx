// A box to tick.
import { Check } from "lucide-react";
import { Checkbox as Radix } from "radix-ui";
import type { KeyboardEvent } from "react";

export function Checkbox(props: {
  checked: boolean;
  onChange: (on: boolean) => void;
  id?: string;
  label?: string;
  disabled?: boolean;
  onKeyDown?: (event: KeyboardEvent<HTMLButtonElement>) => void;
}) {
  return (
    <Radix.Root
      id={props.id}
      aria-label={props.label}
      checked={props.checked}
      disabled={props.disabled}
      onCheckedChange={(on) => props.onChange(on === true)}
      onKeyDown={props.onKeyDown}
      className="flex size-6 shrink-0 items-center justify-center border border-soft bg-sheet disabled:opacity-45 data-[state=checked]:border-copper data-[state=checked]:bg-copper data-[state=checked]:text-sheet"
    >
      <Radix.Indicator>
        <Check size={18} strokeWidth={3} />
      </Radix.Indicator>
    </Radix.Root>
  );
}

/** A box with its words beside it. */
export function Ticked({ text, ...rest }: { text: string; checked: boolean; disabled?: boolean; onChange: (on: boolean) => void }) {
  return (
    <label className="flex min-h-11 items-center gap-2 text-sm">
      <Checkbox {...rest} />
      {text}
    </label>
  );
}
