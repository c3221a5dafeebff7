// What a button without words does, shown when it is pointed at or reached by keyboard.
import { Tooltip } from "radix-ui";
import type { ReactNode } from "react";

export function Tip({ text, children }: { text: string; children: ReactNode }) {
  return (
    <Tooltip.Provider delayDuration={300}>
    <Tooltip.Root>
      <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content sideOffset={4} className="z-60 border border-ink bg-ink px-2 py-1 text-sm text-sheet">
          {text}
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
    </Tooltip.Provider>
  );
}
