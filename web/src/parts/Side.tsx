// A sheet at the right: the working of a figure, or all of a run. Where there is room it stands beside the work, which
// narrows; on a narrow screen it covers it.
import { X } from "lucide-react";
import { Dialog } from "radix-ui";
import { createContext, useContext, type ReactNode } from "react";

// Where in the frame the sheets stand.
export const SheetPlace = createContext<HTMLElement | null>(null);

export function Side(props: { open: boolean; title: ReactNode; wide?: boolean; onClose: () => void; children: ReactNode }) {
  const place = useContext(SheetPlace);
  return (
    <Dialog.Root open={props.open && place !== null} onOpenChange={(open) => !open && props.onClose()} modal={false}>
      <Dialog.Portal container={place}>
        <Dialog.Content
          aria-describedby={undefined}
          onInteractOutside={(event) => event.preventDefault()}
          className={`flex flex-col border-l-2 border-copper bg-sheet max-lg:fixed max-lg:inset-y-0 max-lg:right-0 max-lg:z-30 max-lg:max-w-full max-lg:shadow-xl lg:h-full ${props.wide ? "w-[31rem]" : "w-[26rem]"} max-w-full`}
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
