// A choice out of a list. The list is only made once somebody comes near it: a load list has hundreds of these. It stays
// then: taken away as the focus leaves, a dialog around it would take the focus from the field that was just tapped.
import { Check, ChevronDown } from "lucide-react";
import { Select as Radix } from "radix-ui";
import { useState, type KeyboardEvent } from "react";

export type Options = readonly (readonly [value: string, text: string, hint?: string])[];

// An item may not have an empty value there; an empty one is a usual choice here ("none").
const EMPTY = "\u2013";
const inside = (value: string) => (value === "" ? EMPTY : value);
const outside = (value: string) => (value === EMPTY ? "" : value);

export function Select(props: {
  value: string;
  options: Options;
  onChange: (value: string) => void;
  id?: string;
  label?: string;
  className?: string;
  onKeyDown?: (event: KeyboardEvent<HTMLButtonElement>) => void;
}) {
  const [open, setOpen] = useState(false);
  const [near, setNear] = useState(false);
  const shown = props.options.find(([value]) => value === props.value)?.[1] ?? "";
  return (
    <Radix.Root open={open} onOpenChange={setOpen} value={inside(props.value)} onValueChange={(value) => props.onChange(outside(value))}>
      <Radix.Trigger
        id={props.id}
        aria-label={props.label}
        className={`flex items-center justify-between gap-1 text-left ${props.className ?? "field"}`}
        onFocus={() => setNear(true)}
        onKeyDown={props.onKeyDown}
      >
        <span className="truncate">
          <Radix.Value>{shown}</Radix.Value>
        </span>
        <Radix.Icon asChild>
          <ChevronDown size={16} className="shrink-0 text-soft" />
        </Radix.Icon>
      </Radix.Trigger>
      {(open || near) && (
        <Radix.Portal>
          <Radix.Content
            position="popper"
            sideOffset={2}
            className="z-60 max-h-[min(24rem,var(--radix-select-content-available-height))] min-w-(--radix-select-trigger-width) overflow-hidden border border-ink bg-sheet text-[15px] shadow-lg"
          >
            <Radix.ScrollUpButton className="text-center">▴</Radix.ScrollUpButton>
            <Radix.Viewport>
              {props.options.map(([value, text, hint]) => (
                <Radix.Item
                  key={value}
                  value={inside(value)}
                  className="flex min-h-11 cursor-pointer items-center gap-2 px-2 outline-none data-highlighted:bg-copper-wash data-[state=checked]:font-bold"
                >
                  <span className="w-4 shrink-0">
                    <Radix.ItemIndicator>
                      <Check size={16} />
                    </Radix.ItemIndicator>
                  </span>
                  <Radix.ItemText>{text}</Radix.ItemText>
                  {hint && <span className="text-sm text-soft">{hint}</span>}
                </Radix.Item>
              ))}
            </Radix.Viewport>
            <Radix.ScrollDownButton className="text-center">▾</Radix.ScrollDownButton>
          </Radix.Content>
        </Radix.Portal>
      )}
    </Radix.Root>
  );
}
