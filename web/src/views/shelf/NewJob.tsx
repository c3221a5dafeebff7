// Begin a job: its name, its body, the rules it goes by.
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answered, client, type Schemas } from "../../api/client";
import { practiceQuery } from "../../api/plans";
import { Ask } from "../../parts/Ask";
import { Choice } from "../../parts/Labelled";
import { BODIES, type Body } from "../../parts/bodies";
import { explain } from "./explain";

export function NewJob({ onMade, onClose }: { onMade: (envelope: Schemas["PlanEnvelope"]) => void; onClose: () => void }) {
  const practice = useQuery(practiceQuery);
  const [name, setName] = useState("");
  const [set, setSet] = useState("metric_caravan");
  const [body, setBody] = useState<Body>("steel");
  const begin = useMutation({
    mutationFn: () => answered(client.POST("/api/plans", { body: { name: name.trim(), practice_set: set, body } })),
    onSuccess: onMade,
    onError: explain,
  });
  return (
    <Ask open title="New job" about="It begins with a battery, a main fuse and one fuse block." yes="Begin" disabled={name.trim() === "" || begin.isPending} onYes={() => begin.mutate()} onClose={onClose}>
      <label className="block">
        <span className="mb-1 block text-sm font-semibold">Name of the job</span>
        <input className="field" autoFocus maxLength={80} value={name} onChange={(event) => setName(event.target.value)} />
      </label>
      <Choice label="Body" value={body} options={BODIES} onChange={(value) => setBody(value as Body)} />
      <Choice label="Practice set" value={set} options={(practice.data?.sets ?? []).map((one) => [one.name, one.label] as const)} onChange={setSet} />
      <p className="text-sm text-soft">{practice.data?.sets.find((one) => one.name === set)?.about}</p>
    </Ask>
  );
}
