// What stands behind a line until it is asked for.
import { ChevronRight } from "lucide-react";
import { Accordion } from "radix-ui";
import type { ReactNode } from "react";

export function Fold({ title, open = false, className, children }: { title: ReactNode; open?: boolean; className?: string; children: ReactNode }) {
  return (
    <Accordion.Root type="single" collapsible defaultValue={open ? "it" : ""} className={className}>
      <Accordion.Item value="it">
        <Accordion.Header asChild>
          <div>
            <Accordion.Trigger className="group flex min-h-11 w-full items-center gap-1 text-left text-sm hover:underline">
              <ChevronRight size={16} aria-hidden className="shrink-0 group-data-[state=open]:rotate-90" />
              {title}
            </Accordion.Trigger>
          </div>
        </Accordion.Header>
        <Accordion.Content>{children}</Accordion.Content>
      </Accordion.Item>
    </Accordion.Root>
  );
}
