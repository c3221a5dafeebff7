// A reading that is typed: a number, with or without its unit, kept with Enter or the button.
import { Button } from "./Button";
import { TextField } from "./Labelled";

const KEYS: Record<string, readonly string[]> = { V: ["V", "mV"], A: ["A", "mA"], "Ω": ["Ω", "OL"], K: ["K"] };

export function Typed({ unit, value, onText, onTake }: { unit: string; value: string; onText: (text: string) => void; onTake: (text: string) => void }) {
  return (
    <form
      className="flex w-full items-end gap-1 md:w-auto"
      onSubmit={(event) => {
        event.preventDefault();
        onTake(value);
      }}
    >
      <div className="grow md:w-28 md:grow-0">
        <TextField label={`Read, ${unit}`} value={value} keys={KEYS[unit]} onText={onText} onCommit={onText} inputMode="decimal" />
      </div>
      {/* The keys of the field would go with its focus, and this button with them from under the thumb. */}
      <Button type="submit" onPointerDown={(event) => event.preventDefault()} disabled={value.trim() === ""}>
        Keep
      </Button>
    </form>
  );
}
