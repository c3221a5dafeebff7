// A fault to be found: readings that cost minutes, and the cause that is named in the end.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { caseQuery, causesQuery, handIn, looksQuery, takeLook, type Case } from "../../api/school";
import { Button } from "../../parts/Button";
import { Choice } from "../../parts/Labelled";

export function FaultBench({ found }: { found: Case }) {
  const caseId = found.card.case_id;
  const [subject, setSubject] = useState("");
  const [situation, setSituation] = useState("rest");
  const [reading, setReading] = useState("");
  const [accused, setAccused] = useState("");
  const [cause, setCause] = useState("");
  const cache = useQueryClient();
  const { data: looks = [] } = useQuery(looksQuery(caseId, subject));
  const { data: causes = [] } = useQuery(causesQuery(caseId, accused));
  const put = (made: Case) => {
    cache.setQueryData(caseQuery(caseId).queryKey, made);
    void cache.invalidateQueries({ queryKey: ["standing"] });
  };
  const failed = (error: Error) => toast.error("Not done", { description: error.message });
  const take = useMutation({ mutationFn: () => takeLook(caseId, reading, situation), onSuccess: put, onError: failed });
  const name = useMutation({ mutationFn: () => handIn(caseId, cause), onSuccess: put, onError: failed });
  const things = found.subjects.map((one): [string, string] => [one.id, one.label]);
  const left = found.evening_min >= found.spent_min;
  return (
    <div className="grid gap-4 lg:grid-cols-2">
      <section aria-labelledby="read" className="space-y-2 border border-line bg-sheet p-3">
        <h3 id="read" className="font-bold">
          Take a reading
        </h3>
        <Choice label="At" value={subject} options={[["", "Choose a part or a run"], ...things]} onChange={(next) => (setSubject(next), setReading(""), true)} />
        <Choice label="State" value={situation} options={found.situations.map((one): [string, string] => [one.id, one.label])} onChange={(next) => (setSituation(next), true)} />
        <Choice label="Reading" value={reading} options={[["", subject === "" ? "At what?" : "Choose"], ...looks.map((one): [string, string] => [one.id, one.label])]} onChange={(next) => (setReading(next), true)} />
        <Button look="main" disabled={reading === "" || take.isPending} onClick={() => take.mutate()}>
          Read
        </Button>
        <p aria-live="polite">
          <b>{found.spent_min} min</b> of {found.evening_min} spent{left ? "" : ": the evening is over"}
        </p>
        <ol aria-label="Readings" className="divide-y divide-line">
          {found.looks.map((one, index) => (
            <li key={index} className="flex flex-wrap gap-x-3 py-1">
              <span className="grow">
                {one.label} <span className="text-sm text-soft">{one.situation}</span>
              </span>
              <b className="font-mono">{one.shown}</b>
              <span className="text-sm text-soft">{one.minutes} min</span>
            </li>
          ))}
        </ol>
      </section>
      <section aria-labelledby="name" className="space-y-2 border border-line bg-sheet p-3">
        <h3 id="name" className="font-bold">
          Name it
        </h3>
        <Choice label="It is at" value={accused} options={[["", "Choose a part or a run"], ...things]} onChange={(next) => (setAccused(next), setCause(""), true)} />
        <Choice label="Cause" value={cause} options={[["", accused === "" ? "At what?" : "Choose"], ...causes.map((one): [string, string] => [one.id, one.label])]} onChange={(next) => (setCause(next), true)} />
        <Button look="main" disabled={cause === "" || name.isPending} onClick={() => name.mutate()}>
          {name.isPending ? "Going the program's own way beside yours" : "Hand in"}
        </Button>
      </section>
    </div>
  );
}
