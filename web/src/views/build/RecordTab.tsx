// What was done to the vehicle, newest first: only ever added to, and taken back by a further entry.
import { useQuery } from "@tanstack/react-query";
import { Download } from "lucide-react";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { recordQuery, useRecord } from "../../api/record";
import { Button } from "../../parts/Button";
import { date } from "../../parts/format";
import { TextField } from "../../parts/Labelled";
import { usePlan } from "../../parts/plan";
import { Sleeve } from "../../parts/Sleeve";

type Entry = Schemas["Entry"];

const KINDS: Record<Entry["kind"], string> = {
  done: "Done",
  note: "Note",
  deviation: "Otherwise than planned",
  printed: "Printed",
  shelf: "Shelf",
  back: "Taken back",
  reading: "Read",
  blown: "Fuse blew",
  cause: "Cause found",
  recheck: "Looked at again",
  asbuilt: "Frozen as built",
  setting: "Set",
  spares: "Spare fuses",
  others: "Changed by others",
  handed: "Handed over",
};

function Deviation({ entry }: { entry: Entry }) {
  const { envelope, edit } = usePlan();
  const [size, setSize] = useState("");
  const run = envelope.report.runs.find((one) => one.id === entry.subject);
  if (run === undefined) return null;
  return (
    <div className="flex flex-wrap items-end gap-2 py-1">
      <Sleeve tag={run.tag} colour={envelope.plan.wire_colours?.positive ?? "red"} />
      <div className="w-40">
        <TextField label="Wire that is there" value={size} onCommit={setSize} onText={setSize} hint={`plan: ${run.wire}`} />
      </div>
      <Button disabled={size.trim() === ""} onClick={() => void edit([{ op: "pin_wire", run: entry.subject, size: size.trim(), reason: entry.text.slice(0, 400) }])}>
        Pin it in the plan
      </Button>
    </div>
  );
}

export function RecordTab() {
  const { envelope } = usePlan();
  const planId = envelope.plan_id;
  const { data, error } = useQuery(recordQuery(planId));
  const { onTheWay, add } = useRecord(planId);
  const [text, setText] = useState("");
  if (error && data === undefined) return <p role="alert" className="border-l-4 border-stop bg-stop-wash p-2">{error.message}</p>;
  if (!data) return <p className="text-soft">Reading</p>;
  const taken = new Set(data.map((one) => one.takes_back).filter((one) => one !== null));
  return (
    <div className="max-w-4xl space-y-3">
      <div className="flex flex-wrap items-end gap-2">
        <div className="grow basis-72">
          <TextField label="Note on the whole job" value={text} onCommit={setText} onText={setText} />
        </div>
        <Button
          disabled={text.trim() === ""}
          onClick={() => {
            add({ kind: "note", text });
            setText("");
          }}
        >
          Note it
        </Button>
        {(["csv", "json"] as const).map((ending) => (
          <a key={ending} href={`/api/plans/${planId}/record.${ending}`} download className="inline-flex min-h-11 items-center gap-2 border border-line bg-sheet px-3 font-medium hover:bg-zinc">
            <Download size={18} aria-hidden /> {ending.toUpperCase()}
          </a>
        ))}
      </div>
      {onTheWay.length > 0 && (
        <p className="border-l-4 border-copper bg-copper-wash p-2" role="status">
          {onTheWay.length} {onTheWay.length === 1 ? "entry waits" : "entries wait"} in this browser until the program answers.
        </p>
      )}
      {data.length === 0 ? (
        <p className="border border-line bg-sheet p-3">Nothing noted yet. Ticks in the order of work and notes come here, with who and when.</p>
      ) : (
        <ul className="border border-line bg-sheet" aria-label="Entries">
          {[...data].reverse().map((one) => (
            <li key={one.number} className="flex flex-wrap items-start gap-3 border-b border-line p-2 last:border-b-0">
              <span className="w-10 pt-2.5 text-right font-mono">{one.number}</span>
              <div className={`min-w-0 grow basis-64 pt-2.5 ${taken.has(one.number) ? "text-soft line-through" : ""}`}>
                <p className="break-words">
                  <b className="font-semibold">{KINDS[one.kind]}</b> {one.takes_back !== null ? `entry ${one.takes_back}` : one.kind === "reading" ? "" : one.subject}
                  {one.text !== "" && `: ${one.text}`}
                </p>
                {one.was !== "" && <p className="text-sm break-words text-soft">{one.was}</p>}
                <p className="text-sm text-soft">{[one.who, one.device === "" ? "" : `on ${one.device}`, date(one.made_at), `revision ${one.revision}`].filter((word) => word !== "").join(", ")}</p>
                {one.kind === "deviation" && !taken.has(one.number) && <Deviation entry={one} />}
              </div>
              {one.kind !== "back" && !taken.has(one.number) && <Button onClick={() => add({ kind: "back", takes_back: one.number })}>Take back</Button>}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
