// Buttons that belong together, one stop for the Tab key; arrows move between them.
import { Toolbar as Radix } from "radix-ui";
import type { ReactNode } from "react";
import { Button } from "./Button";
import { Tip } from "./Tip";

export function Toolbar({ label, children }: { label: string; children: ReactNode }) {
  return (
    <Radix.Root aria-label={label} className="flex flex-wrap items-center">
      {children}
    </Radix.Root>
  );
}

export function Tool(props: { label: string; tip?: string; disabled?: boolean; onClick: () => void; children: ReactNode }) {
  return (
    <Tip text={props.tip ?? props.label}>
      <Radix.Button asChild>
        <Button look="quiet" aria-label={props.label} disabled={props.disabled} onClick={props.onClick}>
          {props.children}
        </Button>
      </Radix.Button>
    </Tip>
  );
}
