// A sheet that slides over the right side: the working of a figure, or all of a run.
import { X } from "lucide-react";
import { Dialog } from "radix-ui";
import type { ReactNode } from "react";

export function Side(props: { open: boolean; title: ReactNode; wide?: boolean; onClose: () => void; children: ReactNode }) {
  return (
    <Dialog.Root open={props.open} onOpenChange={(open) => !open && props.onClose()} modal={false}>
      <Dialog.Portal>
        <Dialog.Content
          aria-describedby={undefined}
          onInteractOutside={(event) => event.preventDefault()}
          className={`fixed top-0 right-0 bottom-0 z-30 flex w-full flex-col border-l-2 border-copper bg-sheet shadow-xl md:top-[46px] ${props.wide ? "max-w-[38rem]" : "max-w-[26rem]"}`}
        >
          <div className="flex items-center gap-2 border-b border-line py-1 pr-1 pl-4">
            <Dialog.Title className="grow text-base font-bold">{props.title}</Dialog.Title>
            <Dialog.Close className="flex size-11 items-center justify-center hover:bg-zinc" aria-label="Close">
              <X size={20} />
            </Dialog.Close>
          </div>
          <div className="grow overflow-y-auto p-4" tabIndex={0} role="region" aria-label="Details">
            {props.children}
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
