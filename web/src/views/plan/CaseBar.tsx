// Over a van that is looked over for mistakes: what is marked so far, and another mark.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Flag, X } from "lucide-react";
import { useState } from "react";
import { Link, useSearchParams } from "react-router";
import { toast } from "sonner";
import { caseQuery, codesQuery, setMarks } from "../../api/school";
import { Button } from "../../parts/Button";
import { Choice, TextField } from "../../parts/Labelled";
import { usePlan } from "../../parts/plan";

export function CaseBar({ caseId }: { caseId: string }) {
  const { envelope } = usePlan();
  const [search] = useSearchParams();
  const { data: found } = useQuery(caseQuery(caseId));
  const { data: codes = [] } = useQuery(codesQuery);
  const [marking, setMarking] = useState(false);
  const [subject, setSubject] = useState("");
  const [words, setWords] = useState("");
  const cache = useQueryClient();
  const put = useMutation({
    mutationFn: (marks: { subject: string; code: string }[]) => setMarks(caseId, marks),
    onSuccess: (made) => cache.setQueryData(caseQuery(caseId).queryKey, made),
    onError: (error) => toast.error("Not marked", { description: error.message }),
  });
  const { plan } = envelope;
  const things: [string, string][] = [
    ["plan", "The van as a whole"],
    ...(plan.runs ?? []).map((one): [string, string] => [one.id, `${one.tag} ${one.name ?? ""}`.trim()]),
    ...(plan.parts ?? []).map((one): [string, string] => [one.id, `${one.tag ?? ""} ${one.name}`.trim()]),
    ...(plan.channels ?? []).map((one): [string, string] => [one.id, one.name]),
  ];
  const here = search.get("run") ?? search.get("part") ?? "";
  const at = subject !== "" ? subject : things.some(([id]) => id === here) ? here : "";
  const labels = new Map(things);
  const titles = new Map(codes.map((one) => [one.code, one.title]));
  const marks = found?.marks ?? [];
  const fitting = codes.filter((one) => words.toLowerCase().split(/\s+/).every((word) => `${one.title} ${one.code}`.toLowerCase().includes(word)));
  return (
    <section aria-label="Case" className="border-b-2 border-copper bg-copper-wash px-3 py-1">
      <div className="flex flex-wrap items-center gap-2">
        <Link to={`/school/case/${caseId}`} className="inline-flex min-h-11 items-center font-bold underline">
          {found?.title ?? "Case"}
        </Link>
        <span className="grow text-sm">{found?.told[1]}</span>
        <ul aria-label="Marked" className="flex flex-wrap gap-1">
          {marks.map((one) => (
            <li key={`${one.subject} ${one.code}`} className="flex items-center border border-ink bg-sheet pl-2 text-sm">
              {labels.get(one.subject) ?? one.subject}: {titles.get(one.code) ?? one.code}
              <Button look="quiet" aria-label={`Take back the mark at ${labels.get(one.subject) ?? one.subject}`} onClick={() => put.mutate(marks.filter((each) => each !== one))}>
                <X size={16} />
              </Button>
            </li>
          ))}
        </ul>
        <Button aria-expanded={marking} onClick={() => setMarking(!marking)}>
          <Flag size={18} aria-hidden /> Mark what is wrong
        </Button>
      </div>
      {marking && (
        <div className="grid gap-2 py-2 md:grid-cols-[16rem_14rem_1fr]">
          <Choice label="At" value={at} options={[["", "Choose"], ...things]} onChange={(next) => (setSubject(next), true)} />
          <TextField label="What is wrong, in words" value={words} onCommit={setWords} onText={setWords} />
          <div>
            <span className="mb-1 block text-sm font-semibold">Reason</span>
            <ul aria-label="Reasons" className="max-h-44 overflow-y-auto border border-line bg-sheet">
              {fitting.map((one) => (
                <li key={one.code}>
                  <button
                    type="button"
                    className="min-h-11 w-full px-2 text-left hover:bg-zinc disabled:opacity-45"
                    disabled={at === "" || put.isPending}
                    onClick={() => {
                      put.mutate([...marks, { subject: at, code: one.code }]);
                      setWords("");
                      setSubject("");
                      setMarking(false);
                    }}
                  >
                    {one.title}
                  </button>
                </li>
              ))}
              {fitting.length === 0 && <li className="p-2 text-soft">Nothing of those words.</li>}
            </ul>
            {at === "" && <p className="text-sm text-soft">Say first what it is at.</p>}
          </div>
        </div>
      )}
    </section>
  );
}
