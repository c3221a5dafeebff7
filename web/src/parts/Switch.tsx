// On or off, at once: a contact that is closed, a device that runs.
import { Switch as Radix } from "radix-ui";
import { useDraft } from "./useDraft";

export function Switch({ text, checked, onChange }: { text: string; checked: boolean; onChange: (on: boolean) => unknown }) {
  const [shown, commit] = useDraft(checked, async (next) => Boolean(await onChange(next)));
  return (
    <label className="flex min-h-11 items-center gap-2 text-sm">
      <Radix.Root
        checked={shown}
        onCheckedChange={commit}
        className="h-6 w-11 shrink-0 border border-soft bg-zinc p-0.5 data-[state=checked]:border-copper data-[state=checked]:bg-copper"
      >
        <Radix.Thumb className="block h-full w-4 bg-soft data-[state=checked]:translate-x-[1.35rem] data-[state=checked]:bg-sheet" />
      </Radix.Root>
      {text}
    </label>
  );
}
