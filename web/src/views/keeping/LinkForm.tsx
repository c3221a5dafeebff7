// A link by which somebody may look at one job: made here, shown once.
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { toast } from "sonner";
import { answered, client, ProblemError, type Schemas } from "../../api/client";
import { sharingQuery } from "../../api/sharing";
import { Button } from "../../parts/Button";
import { Select } from "../../parts/Select";

export function LinkForm({ jobs }: { jobs: readonly Schemas["ShelfCard"][] }) {
  const cache = useQueryClient();
  const [job, setJob] = useState(jobs[0]?.plan_id ?? "");
  const [name, setName] = useState("");
  const make = useMutation({
    mutationFn: () => answered(client.POST("/api/plans/{plan_id}/link", { params: { path: { plan_id: job } }, body: { name: name.trim() } })),
    onSuccess: () => void cache.invalidateQueries({ queryKey: sharingQuery.queryKey }),
    onError: (error: Error) => toast.error("No link was made", { description: error instanceof ProblemError ? error.problem.detail : error.message }),
  });
  return (
    <form
      className="mt-4 border border-line bg-sheet p-3"
      onSubmit={(event) => {
        event.preventDefault();
        make.mutate();
      }}
    >
      <h3 className="font-bold">A link that shows one job</h3>
      <p className="mb-2 text-sm text-soft">For a customer or a colleague on this network. It shows the plan, its papers and its record; not your prices. Nothing can be changed by it.</p>
      <div className="flex flex-wrap items-end gap-3">
        <label className="flex flex-col" htmlFor="link-job">
          Job
          <Select id="link-job" value={job} options={jobs.map((one) => [one.plan_id, one.name] as const)} onChange={setJob} className="field w-48" />
        </label>
        <label className="flex flex-col">
          Who it is for
          <input className="field w-48" value={name} maxLength={60} required onChange={(event) => setName(event.target.value)} />
        </label>
        <Button type="submit" disabled={make.isPending || name.trim() === ""}>
          Make the link
        </Button>
      </div>
      {make.data && (
        <div role="status" className="mt-3 border-l-4 border-good pl-3">
          <p>Shown once. Whoever has it sees the job until it is withdrawn above.</p>
          {make.data.links.map((one) => (
            <p key={one} className="font-mono text-sm break-all select-all">{one}</p>
          ))}
        </div>
      )}
    </form>
  );
}
