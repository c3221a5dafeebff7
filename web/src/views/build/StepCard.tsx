// One step of the work: what to do, what to have in the hand, what to mind, and the box to tick.
import { TriangleAlert } from "lucide-react";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Button } from "../../parts/Button";
import { Checkbox } from "../../parts/Checkbox";
import { Fold } from "../../parts/Fold";
import { date, number } from "../../parts/format";
import { TextField } from "../../parts/Labelled";
import { Photos } from "../../parts/Photos";
import type { NewEntry } from "../../api/record";
import { BondForm } from "./BondForm";

type State = Schemas["StepState"];

const between = (one: Schemas["Expected"]) => `${number(one.low, 2)} to ${number(one.high, 2)} ${one.unit}`;

export function StepCard(props: {
  state: State;
  // On its way to the record, and not there yet.
  pending: boolean;
  expected: Schemas["Expected"] | undefined;
  judged: Schemas["Judged"] | undefined;
  onAdd: (entry: NewEntry) => void;
  onOpen: (subject: string) => void;
}) {
  const { state, pending, onAdd } = props;
  const { step } = state;
  const [reading, setReading] = useState("");
  const done = state.standing === "done";
  const ticked = done || state.standing === "changed";
  const tick = (on: boolean) => {
    if (on) onAdd({ kind: "done", subject: step.id, was: step.done_as, text: reading });
    else if (state.number !== null) onAdd({ kind: "back", takes_back: state.number });
  };
  return (
    <li className="border-b border-line p-2 last:border-b-0" aria-label={step.text}>
      <div className="flex items-start gap-3">
        <label className="flex min-h-11 min-w-11 items-center justify-center">
          <Checkbox label={`${ticked ? "Done" : "Tick"}: ${step.text}`} checked={ticked !== pending} disabled={pending} onChange={tick} />
        </label>
        <div className="min-w-0 grow pt-2">
          <p className={done ? "text-soft" : "font-semibold"}>{step.text}</p>
          {step.lines.map((line) => (
            <p key={line} className="font-mono text-sm">
              {line}
            </p>
          ))}
          {!done && step.caution !== "" && (
            <p className="mt-1 flex gap-2 border-l-4 border-copper bg-copper-wash p-1.5 text-sm">
              <TriangleAlert size={16} aria-hidden className="mt-0.5 shrink-0" />
              {step.caution}
            </p>
          )}
          {!done && step.have.length > 0 && <p className="text-sm text-soft">In the hand: {step.have.join(", ")}</p>}
          {!done && step.torque !== "" && <p className="text-sm">Tighten {step.torque}</p>}
          {!done && step.check !== "" && <p className="text-sm">{step.check}</p>}
          {state.standing === "waiting" && (
            <p className="text-sm text-soft">
              First: {state.waits_for.slice(0, 2).join("; ")}
              {state.waits_for.length > 2 && ` and ${state.waits_for.length - 2} more`}
            </p>
          )}
          {state.standing === "changed" && <p className="text-sm text-fix">Done as {state.was === "" ? "noted" : state.was}; the plan says {step.done_as} now.</p>}
          {ticked && (
            <p className="text-sm text-soft">
              {[state.who === "" ? "done" : state.who, date(state.made_at)].join(", ")}
            </p>
          )}
          {pending && <p className="text-sm text-soft">On its way to the record</p>}
          {props.expected !== undefined && !ticked && (
            <p className="text-sm">
              Expect <b className="font-mono">{between(props.expected)}</b>: {props.expected.why}.
            </p>
          )}
          {props.judged !== undefined && (
            <p className={`text-sm ${props.judged.verdict === "in" ? "" : "border-l-4 border-fix bg-fix-wash p-1.5"}`}>Read {props.judged.text}</p>
          )}
          {step.is_bond && <BondForm run={step.subject} onAdd={onAdd} step={step.id} />}
          {step.reading !== "" && !ticked && (
            <div className="max-w-xs py-1">
              <TextField label={`Read ${step.reading}`} value={reading} keys={["V", "mV", "A"]} onCommit={setReading} onText={setReading} />
            </div>
          )}
          <More {...props} />
        </div>
      </div>
    </li>
  );
}

function More({ state, onAdd, onOpen }: { state: State; onAdd: (entry: NewEntry) => void; onOpen: (subject: string) => void }) {
  const { step } = state;
  const [text, setText] = useState("");
  const send = (kind: "note" | "deviation") => {
    onAdd({ kind, subject: kind === "note" ? step.id : (step.subject), was: step.done_as, text });
    setText("");
  };
  const kind = step.subject_kind;
  return (
    <Fold title={<span className="text-soft">Note, photo</span>}>
      <div className="space-y-2 pb-2">
        <TextField label="What is different, or worth knowing" value={text} onCommit={setText} onText={setText} long />
        <div className="flex flex-wrap gap-2">
          <Button disabled={text.trim() === ""} onClick={() => send("note")}>
            Note it
          </Button>
          {kind === "run" && (
            <Button disabled={text.trim() === ""} onClick={() => send("deviation")}>
              Done otherwise than planned
            </Button>
          )}
          {(kind === "run" || kind === "part") && (
            <Button look="quiet" onClick={() => onOpen(step.subject)}>
              Open in the plan
            </Button>
          )}
        </div>
        {kind !== "plan" && <Photos subject={step.subject} kind={kind} name={step.text} />}
      </div>
    </Fold>
  );
}
