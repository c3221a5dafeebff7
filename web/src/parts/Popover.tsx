// A few lines that open beside a button: help with keys, a legend.
import { Popover as Radix } from "radix-ui";
import type { ReactNode } from "react";
import { Button } from "./Button";

export function Popover({ button, label, children }: { button: ReactNode; label: string; children: ReactNode }) {
  return (
    <Radix.Root>
      <Radix.Trigger asChild>
        <Button>{button}</Button>
      </Radix.Trigger>
      <Radix.Portal>
        <Radix.Content aria-label={label} sideOffset={4} collisionPadding={8} className="z-60 max-w-sm border border-ink bg-sheet p-3 text-sm shadow-lg">
          {children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
