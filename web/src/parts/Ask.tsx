// A question in the middle of the screen: a title, a form, and two ways out. Escape is the way back.
import { Dialog } from "radix-ui";
import type { FormEvent, ReactNode } from "react";
import { Button } from "./Button";

export function Ask(props: {
  open: boolean;
  title: string;
  about?: string;
  yes: string;
  problem?: string | null;
  wide?: boolean;
  disabled?: boolean;
  /** It opens by itself, perhaps under somebody's typing: an Enter meant for a field answers nothing. */
  unasked?: boolean;
  onYes: () => void;
  onClose: () => void;
  children?: ReactNode;
}) {
  const submit = (event: FormEvent) => {
    event.preventDefault();
    props.onYes();
  };
  return (
    <Dialog.Root open={props.open} onOpenChange={(open) => !open && props.onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/45" />
        <Dialog.Content
          {...(props.about ? {} : { "aria-describedby": undefined })}
          onOpenAutoFocus={(event) => {
            if (!props.unasked) return;
            event.preventDefault();
            (event.currentTarget as HTMLElement).focus();
          }}
          className={`fixed top-1/2 left-1/2 z-50 max-h-[90dvh] w-[calc(100vw-2rem)] -translate-x-1/2 -translate-y-1/2 overflow-y-auto border-t-4 border-copper bg-sheet p-5 shadow-xl ${props.wide ? "max-w-4xl" : "max-w-lg"}`}
        >
          <Dialog.Title className="text-lg font-bold">{props.title}</Dialog.Title>
          {props.about && <Dialog.Description className="mt-1 text-soft">{props.about}</Dialog.Description>}
          <form onSubmit={submit} className="mt-4 space-y-4">
            {props.children}
            {props.problem && (
              <p role="alert" className="border-l-4 border-stop bg-stop-wash p-2">
                {props.problem}
              </p>
            )}
            <div className="flex justify-end gap-2">
              <Button onClick={props.onClose}>Cancel</Button>
              <Button type="submit" look="main" disabled={props.disabled}>
                {props.yes}
              </Button>
            </div>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
