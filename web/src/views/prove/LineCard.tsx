// One reading: what it should be, a field for what it is, and what that means.
import { CircleCheck, MapPin } from "lucide-react";
import { useState } from "react";
import { toast } from "sonner";
import type { Schemas } from "../../api/client";
import { judge, readMeter, type Day, type MeterPlace } from "../../api/prove";
import type { NewEntry } from "../../api/record";
import { Button } from "../../parts/Button";
import { date } from "../../parts/format";
import { Typed } from "../../parts/Typed";
import { WhereProbes } from "../../parts/WhereProbes";

type Props = {
  planId: string;
  line: Schemas["Line"];
  proved: Schemas["Proved"] | undefined;
  pending: boolean;
  meter: MeterPlace;
  leads_ohm: number;
  day: Day;
  onAdd: (entry: NewEntry) => void;
  onFault: (line: Schemas["Line"], typed: string) => void;
};

export function LineCard({ planId, line, proved, pending, meter, leads_ohm, day, onAdd, onFault }: Props) {
  const [typed, setTyped] = useState("");
  const [asked, setAsked] = useState<Schemas["Judged"] | null>(null);
  const [where, setWhere] = useState(false);
  const [busy, setBusy] = useState(false);
  const keep = (text: string, instrument: string) => {
    setAsked(null);
    setTyped("");
    const detail: Record<string, string | number> = { instrument };
    if (line.quantity === "ohms") detail["leads_ohm"] = leads_ohm;
    // Judged by this day whenever it is looked at.
    if (day.measured !== "") detail["measured"] = day.measured;
    if (day.sky !== "") detail["sky"] = day.sky;
    onAdd({ kind: "reading", subject: line.id, was: line.as_read, text, detail });
  };
  const take = async (text: string, instrument = "") => {
    if (text.trim() === "") return;
    try {
      const said = await judge(planId, line.id, text, line.quantity === "ohms" ? leads_ohm : 0, day);
      if (said.verdict === "unit" || said.verdict === "unread") setAsked(said);
      else keep(text, instrument);
    } catch {
      // Nobody answers: it is kept as it was typed and judged later.
      keep(text, instrument);
    }
  };
  const fromMeter = async () => {
    setBusy(true);
    try {
      const said = await readMeter(planId, meter, line.reading, line.situation);
      await take(said.typed, said.instrument);
    } catch (error) {
      toast.error((error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  const bad = proved !== undefined && proved.judged.verdict !== "in";
  return (
    <li className="border-b border-line p-2 last:border-b-0" aria-label={line.label}>
      <div className="flex flex-wrap items-start gap-x-4 gap-y-1">
        <div className="min-w-0 grow basis-72">
          <p className="font-semibold break-words">{line.label}</p>
          <p>
            <b className="font-mono text-lg">{line.band}</b>
            {line.floating && <span className="text-sm text-soft"> · floats: a lamp shows none</span>}
          </p>
          {!bad && <p className="text-sm text-soft">{line.means.good}</p>}
        </div>
        <div className="flex flex-wrap items-end gap-2">
          <Typed unit={line.unit} value={typed} onText={setTyped} onTake={(text) => void take(text)} />
          {meter.name !== "" && line.reading !== "" && (
            <Button disabled={busy} onClick={() => void fromMeter()}>
              From the meter
            </Button>
          )}
          <Button look="quiet" aria-expanded={where} aria-label={`Where: ${line.label}`} onClick={() => setWhere(!where)}>
            <MapPin size={18} aria-hidden />
          </Button>
        </div>
      </div>
      {asked !== null && (
        <div role="alert" className="mt-1 flex flex-wrap items-center gap-2 border-l-4 border-look bg-look-wash p-1.5 text-sm">
          <span className="grow">{asked.text}</span>
          {asked.meant !== "" && <Button onClick={() => keep(asked.meant, "")}>It was {asked.meant}</Button>}
          {asked.verdict === "unit" && <Button onClick={() => keep(typed, "")}>It stands as typed</Button>}
        </div>
      )}
      {pending && <p className="text-sm text-soft">On its way to the record</p>}
      {proved !== undefined && !pending && (
        <div className={`mt-1 flex flex-wrap items-center gap-2 p-1.5 text-sm ${bad ? "border-l-4 border-fix bg-fix-wash" : proved.old ? "border-l-4 border-look bg-look-wash" : ""}`}>
          <span className="grow break-words">
            {!bad && <CircleCheck size={16} aria-hidden className="mr-1 inline text-good" />}
            Read {proved.judged.text}
            {proved.old && " The plan has changed since: read it again."}
            <span className="text-soft"> {[proved.who, proved.instrument, date(proved.made_at), proved.times > 1 ? `read ${proved.times} times` : ""].filter((word) => word !== "").join(", ")}</span>
          </span>
          {bad && line.reading !== "" && <Button onClick={() => onFault(line, proved.typed)}>Find the fault from here</Button>}
          <Button look="quiet" onClick={() => onAdd({ kind: "back", takes_back: proved.entry })}>
            Take back
          </Button>
        </div>
      )}
      {where && <WhereProbes run={line.run} part={line.part} red={line.red} black={line.black} />}
    </li>
  );
}
