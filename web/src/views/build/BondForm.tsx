// A bond measured: the leads of the meter first, then the bond; or millivolts at a known current, which sees more.
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { answered, client } from "../../api/client";
import type { NewEntry } from "../../api/record";
import { Button } from "../../parts/Button";
import { NumberField } from "../../parts/NumberField";
import { OneOf } from "../../parts/OneOf";
import { usePlan } from "../../parts/plan";

const WAYS = [
  ["ohms", "By ohms"],
  ["millivolts", "By millivolts"],
] as const;

type Typed = number | string | null;

export function BondForm({ run, step, onAdd }: { run: string; step: string; onAdd: (entry: NewEntry) => void }) {
  const { envelope } = usePlan();
  const [way, setWay] = useState<"ohms" | "millivolts">("ohms");
  const [first, setFirst] = useState<Typed>(null);
  const [second, setSecond] = useState<Typed>(null);
  const judge = useMutation({
    mutationFn: () =>
      answered(
        client.POST("/api/plans/{plan_id}/bonds/{run_id}", {
          params: { path: { plan_id: envelope.plan_id, run_id: run } },
          body: (way === "ohms" ? { leads_ohm: first, bond_ohm: second } : { current_a: first, drop_mv: second }) as never,
        }),
      ),
  });
  const choose = (next: "ohms" | "millivolts") => {
    setWay(next);
    setFirst(null);
    setSecond(null);
    judge.reset();
  };
  const said = judge.data?.text ?? judge.error?.message;
  return (
    <div className="space-y-2 py-1">
      <OneOf label="How the bond is measured" value={way} options={WAYS} onChange={choose} />
      <div className="grid max-w-md grid-cols-2 gap-2">
        <NumberField key={`${way} 1`} label={way === "ohms" ? "Probes together, Ω" : "Current, A"} value={typeof first === "number" ? first : null} onCommit={setFirst} />
        <NumberField key={`${way} 2`} label={way === "ohms" ? "Across the bond, Ω" : "Across the bond, mV"} value={typeof second === "number" ? second : null} onCommit={setSecond} />
      </div>
      <div className="flex flex-wrap items-center gap-2">
        <Button disabled={first === null || second === null} onClick={() => judge.mutate()}>
          Judge it
        </Button>
        {judge.data !== undefined && (
          <Button onClick={() => onAdd({ kind: "note", subject: step, text: `bond ${way === "ohms" ? `${first} and ${second} Ω` : `${second} mV at ${first} A`}: ${judge.data.text}` })}>Note it</Button>
        )}
      </div>
      {said !== undefined && (
        <p role="status" className={judge.data?.verdict === "good" ? "text-sm" : "border-l-4 border-fix bg-fix-wash p-1.5 text-sm"}>
          {said}
        </p>
      )}
    </div>
  );
}
