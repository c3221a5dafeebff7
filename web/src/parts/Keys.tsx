// Big keys for a number and its unit, under a field that is typed in with a thumb: the keys of the telephone itself are
// small, hide half of the screen and have no metres.
import clsx from "clsx";
import { Check, Delete } from "lucide-react";
import type { ReactNode } from "react";

const ROWS = ["789", "456", "123"] as const;

function Key(props: { name?: string; main?: boolean; onPress: () => void; children: ReactNode }) {
  return (
    <button
      type="button"
      aria-label={props.name}
      tabIndex={-1}
      // The field keeps the focus, and with it what is typed.
      onPointerDown={(event) => event.preventDefault()}
      onClick={props.onPress}
      className={clsx("flex min-h-14 items-center justify-center border text-xl font-semibold", props.main ? "border-ink bg-ink text-sheet" : "border-line bg-sheet active:bg-zinc")}
    >
      {props.children}
    </button>
  );
}

// `typed` is null until a key is pressed: the first one replaces what stood there.
export function Keys({ typed, units, onText, onDone }: { typed: string | null; units: readonly string[]; onText: (text: string) => void; onDone: () => void }) {
  const text = typed ?? "";
  const put = (more: string) => onText(text + more);
  const unit = (name: string) => put(text === "" || text.endsWith(" ") ? name : ` ${name}`);
  return (
    <div role="group" aria-label="Keys" className="mt-2 grid grid-cols-4 gap-1">
      {ROWS.map((row, at) => (
        <div key={row} className="col-span-4 grid grid-cols-subgrid">
          {[...row].map((one) => (
            <Key key={one} onPress={() => put(one)}>
              {one}
            </Key>
          ))}
          {at === 0 ? (
            <Key name="Delete the last sign" onPress={() => onText(text.slice(0, -1).trimEnd())}>
              <Delete size={22} />
            </Key>
          ) : units.length === 0 && at === 1 ? (
            <Key name="Below zero" onPress={() => onText(text.startsWith("-") ? text.slice(1) : `-${text}`)}>
              −
            </Key>
          ) : units[at - 1] === undefined ? (
            <span />
          ) : (
            <Key onPress={() => unit(units[at - 1] ?? "")}>{units[at - 1]}</Key>
          )}
        </div>
      ))}
      <Key name="Point" onPress={() => put(".")}>
        .
      </Key>
      <Key onPress={() => put("0")}>0</Key>
      {units[2] === undefined ? <span /> : <Key onPress={() => unit(units[2] ?? "")}>{units[2]}</Key>}
      <Key name="Done" main onPress={onDone}>
        <Check size={22} />
      </Key>
    </div>
  );
}
