// A reading of one's own choice: at a part or along a run, in a state.
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import type { Schemas } from "../../api/client";
import { offeredQuery, readMeter, type MeterPlace } from "../../api/prove";
import { Button } from "../../parts/Button";
import { Fold } from "../../parts/Fold";
import { Select } from "../../parts/Select";
import { Typed } from "../../parts/Typed";
import { usePlan } from "../../parts/plan";
import type { Taken } from "./known";

type Props = { planId: string; names: Map<string, string>; situations: Schemas["Choice"][]; leads_ohm: number; meter: MeterPlace; onTake: (taken: Taken) => void };

export function OwnReading({ planId, names, situations, leads_ohm, meter, onTake }: Props) {
  const { envelope } = usePlan();
  const [subject, setSubject] = useState("");
  const [reading, setReading] = useState("");
  const [situation, setSituation] = useState("rest");
  const [typed, setTyped] = useState("");
  const offered = useQuery({ ...offeredQuery(planId, envelope.revision, subject), enabled: subject !== "" });
  const chosen = offered.data?.find((one) => one.reading === reading);
  // Ohms are read with everything dead, all else with it alive.
  const where = chosen?.quantity === "ohms" ? "dead" : situation;
  const take = (text: string) => {
    if (chosen === undefined || text.trim() === "") return;
    onTake({ reading, situation: where, typed: text, leads_ohm });
    setTyped("");
  };
  const fromMeter = async () => {
    try {
      take((await readMeter(planId, meter, reading, where)).typed);
    } catch (error) {
      toast.error((error as Error).message);
    }
  };
  return (
    <Fold title="A reading of your own" className="border border-line bg-sheet px-2">
      <div className="flex flex-wrap items-end gap-2 pb-2">
        <div className="w-60">
          <span className="mb-1 block text-sm font-semibold">At which part or run</span>
          <Select
            label="At which part or run"
            value={subject}
            options={[["", "Choose"], ...[...names].map(([id, name]) => [id, name] as const)]}
            onChange={(next) => {
              setSubject(next);
              setReading("");
            }}
          />
        </div>
        <div className="w-80">
          <span className="mb-1 block text-sm font-semibold">Reading</span>
          <Select label="Reading" value={reading} options={[["", "Choose"], ...(offered.data ?? []).map((one) => [one.reading, one.label] as const)]} onChange={setReading} />
        </div>
        <div className="w-60">
          <span className="mb-1 block text-sm font-semibold">State</span>
          <Select label="State" value={where} options={situations.map((one) => [one.id, one.label] as const)} onChange={setSituation} />
        </div>
        <Typed unit={chosen?.unit ?? "V"} value={typed} onText={setTyped} onTake={take} />
        {meter.name !== "" && (
          <Button disabled={chosen === undefined} onClick={() => void fromMeter()}>
            From the meter
          </Button>
        )}
      </div>
      {chosen !== undefined && <p className="pb-2 text-sm text-soft">{situations.find((one) => one.id === where)?.explain}</p>}
    </Fold>
  );
}
