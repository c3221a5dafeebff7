// What can be done with a thing, behind one button.
import { DropdownMenu } from "radix-ui";
import type { ReactNode } from "react";

export type Item = { text: string; keys?: string; disabled?: boolean; onPick: () => void };

export function Menu({ label, icon, items, className }: { label: string; icon: ReactNode; items: readonly Item[]; className?: string }) {
  return (
    <DropdownMenu.Root modal={false}>
      <DropdownMenu.Trigger aria-label={label} className={className ?? "inline-flex size-11 items-center justify-center hover:bg-zinc"}>
        {icon}
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" sideOffset={2} collisionPadding={8} className="z-60 min-w-44 border border-ink bg-sheet text-[15px] shadow-lg">
          {items.map((item) => (
            <DropdownMenu.Item
              key={item.text}
              disabled={item.disabled}
              onSelect={item.onPick}
              className="flex min-h-11 cursor-pointer items-center justify-between gap-6 px-3 outline-none data-disabled:opacity-45 data-highlighted:bg-copper-wash"
            >
              {item.text}
              {item.keys && <span className="font-mono text-xs text-soft">{item.keys}</span>}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
