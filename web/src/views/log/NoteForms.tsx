// Forms for what happens after the build; each adds an entry to the record.
import { useState } from "react";
import type { Schemas } from "../../api/client";
import type { NewEntry } from "../../api/record";
import { Button } from "../../parts/Button";
import { date } from "../../parts/format";
import { Fold } from "../../parts/Fold";
import { TextField } from "../../parts/Labelled";
import { NumberField } from "../../parts/NumberField";
import { Select } from "../../parts/Select";
import { usePlan } from "../../parts/plan";
import { WhoField } from "../../parts/WhoField";
import { runText } from "../../parts/runs";
import { AsFound } from "./AsFound";

type Add = (entry: NewEntry) => void;
type Log = Schemas["LogAnswer"];
type Odometer = { value: number | null; detail: Record<string, number | boolean> };

function One({ title, open = false, children }: { title: string; open?: boolean; children: React.ReactNode }) {
  return (
    <Fold title={<b className="text-base font-semibold">{title}</b>} open={open} className="border border-line bg-sheet px-2">
      <div className="space-y-2 pb-2">{children}</div>
    </Fold>
  );
}

function Text({ label, button, hint = "", least = 1, onSend }: { label: string; button: string; hint?: string; least?: number; onSend: (text: string) => void }) {
  const [text, setText] = useState("");
  return (
    <>
      <TextField label={label} value={text} onCommit={setText} onText={setText} hint={hint} long />
      <Button
        disabled={text.trim().length < least}
        onClick={() => {
          onSend(text);
          setText("");
        }}
      >
        {button}
      </Button>
    </>
  );
}

function Blown({ log, odometer, onAdd }: { log: Log; odometer: Odometer; onAdd: Add }) {
  const { envelope } = usePlan();
  const [run, setRun] = useState("");
  const [text, setText] = useState("");
  const runs = envelope.report.runs.filter((one) => one.fuse !== null);
  const chosen = runs.find((one) => one.id === run);
  return (
    <One title="A fuse blew" open={log.open_fuses.length > 0}>
      <Select label="Which fuse" value={run} options={[["", "Which fuse"], ...runs.map((one) => [one.id, `${runText(one)}, ${one.fuse?.rating_a ?? ""} A`] as const)]} onChange={setRun} />
      <TextField label="When, and what ran just then" value={text} onCommit={setText} onText={setText} />
      <Button
        disabled={chosen === undefined}
        onClick={() => {
          onAdd({ kind: "blown", subject: run, text: `${chosen?.tag ?? ""} ${chosen?.fuse?.rating_a ?? ""} A${text.trim() === "" ? "" : `, ${text}`}`, detail: odometer.detail });
          setRun("");
          setText("");
        }}
      >
        Note it
      </Button>
      {log.open_fuses.length > 0 && (
        <ul aria-label="Fuses without a cause">
          {log.open_fuses.map((one) => (
            <Cause key={one.number} fuse={one} onAdd={onAdd} />
          ))}
        </ul>
      )}
    </One>
  );
}

function Cause({ fuse, onAdd }: { fuse: Schemas["Noted"]; onAdd: Add }) {
  return (
    <li className="space-y-2 border-t border-line pt-2">
      <p>
        <b className="font-semibold">{fuse.text}</b>, {date(fuse.made_at)}: no cause found yet.
      </p>
      <Text
        label="What was found, and what mended it"
        button="This was the cause: a new fuse may go in"
        onSend={(text) => onAdd({ kind: "cause", subject: fuse.subject, was: fuse.text, text, detail: { blown: fuse.number } })}
      />
    </li>
  );
}

function Setting({ onAdd }: { onAdd: Add }) {
  const { envelope } = usePlan();
  const [part, setPart] = useState("");
  const some = (envelope.plan.parts ?? []).filter((one) => ["battery", "charger", "isolator", "shunt"].includes(one.kind));
  return (
    <One title="Settings of batteries and chargers">
      <Select label="Of which part" value={part} options={[["", "Of which part"], ...some.map((one) => [one.id, one.name] as const)]} onChange={setPart} />
      {part !== "" && <Text label="As it is set" hint="absorption 14.2 V, float 13.5 V, 40 A, alarm at 11.8 V" button="Note it" onSend={(text) => onAdd({ kind: "setting", subject: part, text })} />}
    </One>
  );
}

export function NoteForms({ log, onAdd }: { log: Log; onAdd: Add }) {
  const [km, setKm] = useState<number | null>(null);
  const [replaced, setReplaced] = useState(false);
  // Less than before is typed wrong, or another odometer: it is asked before it counts.
  const less = km !== null && log.odometer_km !== null && km < log.odometer_km;
  const detail: Odometer["detail"] = km === null || (less && !replaced) ? {} : less ? { odometer_km: km, odometer_replaced: true } : { odometer_km: km };
  const odometer: Odometer = { value: km ?? log.odometer_km, detail };
  return (
    <>
      <div className="grid grid-cols-2 gap-2">
        <WhoField label="Who notes it" />
        <NumberField label="Odometer, km" value={odometer.value} onCommit={(value) => {
            setKm(typeof value === "number" ? value : null);
            setReplaced(false);
          }}
        />
      </div>
      {less && !replaced && (
        <p role="alert" className="flex flex-wrap items-center gap-2 border-l-4 border-look bg-look-wash p-1.5 text-sm">
          <span className="grow">The odometer read {log.odometer_km} km before. Typed wrong, or replaced? Until then it is not noted.</span>
          <Button onClick={() => setReplaced(true)}>It was replaced</Button>
        </p>
      )}
      <One title={log.built_at === "" ? "Freeze as built" : `Built ${date(log.built_at)}`} open={log.built_at === ""}>
        <p className="text-sm text-soft">The plan as it stands now gets a name that later changes are held against; from then on rechecks fall due.</p>
        <Text label="Name of what was built" hint="As built, second battery added" button="Freeze this revision as built" onSend={(text) => onAdd({ kind: "asbuilt", text, detail: odometer.detail })} />
      </One>
      <Blown log={log} odometer={odometer} onAdd={onAdd} />
      <Setting onAdd={onAdd} />
      <One title="Spare fuses left in the vehicle">
        <p className="text-sm">In it stand: {log.fuse_sizes.join(", ")}.</p>
        <Text label="What was left, and where" hint="one of each, in the lid of the galley block" button="Note it" onSend={(text) => onAdd({ kind: "spares", text })} />
      </One>
      <One title="Changed by somebody else">
        <Text label="What was found changed, and by whom" button="Note it" onSend={(text) => onAdd({ kind: "others", text, detail: odometer.detail })} />
      </One>
      <One title="Somebody else's work, as found">
        <AsFound />
      </One>
      <One title="Handed over">
        <Text label="To whom, and what was explained" button="The pack of this revision is handed over" onSend={(text) => onAdd({ kind: "handed", text, detail: odometer.detail })} />
      </One>
    </>
  );
}
