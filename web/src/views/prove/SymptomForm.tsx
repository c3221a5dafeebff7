// What is said of a vehicle, put so that it can be reckoned with.
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Button } from "../../parts/Button";
import { Select, type Options } from "../../parts/Select";
import { usePlan } from "../../parts/plan";
import { runText } from "../../parts/runs";

type Choice = Schemas["Choice"];

export function SymptomForm({ choices, onAdd }: { choices: Choice[]; onAdd: (one: Schemas["SymptomIn"]) => void }) {
  const { envelope } = usePlan();
  const [kind, setKind] = useState("");
  const [subject, setSubject] = useState("");
  const of = choices.find((one) => one.id === kind)?.explain ?? "";
  const parts = envelope.plan.parts ?? [];
  const runs: Options = envelope.report.runs.filter((one) => one.fuse !== null).map((one) => [one.id, runText(one)]);
  const subjects: Options =
    of === "run" ? runs : parts.filter((one) => (of === "part" ? one.kind !== "joint" : one.kind === of)).map((one) => [one.id, one.name]);
  return (
    <div className="flex flex-wrap items-end gap-2 border border-line bg-sheet p-2">
      <div className="w-52">
        <span className="mb-1 block text-sm font-semibold">What it does</span>
        <Select
          label="What it does"
          value={kind}
          options={[["", "Choose"], ...choices.map((one) => [one.id, one.label] as const)]}
          onChange={(next) => {
            setKind(next);
            setSubject("");
          }}
        />
      </div>
      <div className="w-60">
        <span className="mb-1 block text-sm font-semibold">Which</span>
        <Select label="Which" value={subject} options={[["", "Choose"], ...subjects]} onChange={setSubject} />
      </div>
      <Button
        disabled={kind === "" || subject === ""}
        onClick={() => {
          onAdd({ kind: kind as Schemas["SymptomIn"]["kind"], subject });
          setSubject("");
        }}
      >
        Say so
      </Button>
    </div>
  );
}
