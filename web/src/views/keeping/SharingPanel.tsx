// Devices of the network: how they are let in, which are, what each may do, and links that show one job.
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { toast } from "sonner";
import { answered, client, ProblemError, type Schemas } from "../../api/client";
import { shelfQuery } from "../../api/shelf";
import { sharingQuery } from "../../api/sharing";
import { Button } from "../../parts/Button";
import { date } from "../../parts/format";
import { Select } from "../../parts/Select";
import { LinkForm } from "./LinkForm";

const ROLES = [
  ["worker", "Worker: jobs only"],
  ["owner", "Owner: like the host"],
] as const;

function Device({ one, job }: { one: Schemas["DeviceCard"]; job: string }) {
  const cache = useQueryClient();
  const done = {
    onSuccess: () => void cache.invalidateQueries({ queryKey: sharingQuery.queryKey }),
    onError: (error: Error) => toast.error("Not done", { description: error instanceof ProblemError ? error.problem.detail : error.message }),
  };
  const params = { path: { device_id: one.device_id } };
  const withdraw = useMutation({ mutationFn: () => answered(client.DELETE("/api/devices/{device_id}", { params })), ...done });
  const give = useMutation({
    mutationFn: (role: "owner" | "worker") => answered(client.PUT("/api/devices/{device_id}/role", { params, body: { role } })),
    ...done,
  });
  return (
    <li className="flex flex-wrap items-center gap-3 border-b border-line p-2 last:border-b-0">
      <span className="grow">
        {one.name} <span className="text-sm text-soft">let in {date(one.made_at)}</span>
      </span>
      {one.role === "reader" ? (
        <span className="text-soft">Reader: {job} only</span>
      ) : (
        <Select label={`What ${one.name} may do`} value={one.role} options={ROLES} onChange={(role) => give.mutate(role === "owner" ? "owner" : "worker")} className="field w-72" />
      )}
      <Button aria-label={`Withdraw ${one.name}`} onClick={() => withdraw.mutate()}>
        Withdraw
      </Button>
    </li>
  );
}

export function SharingPanel() {
  const { data } = useQuery(sharingQuery);
  const decides = data?.role === "host" || data?.role === "owner";
  const jobs = useQuery({ ...shelfQuery(false), enabled: decides }).data ?? [];
  if (data === undefined) return null;
  return (
    <section aria-labelledby="sharing-title">
      <h2 id="sharing-title" className="mb-2 text-xl font-bold">
        Phones and tablets
      </h2>
      {!data.shared && (
        <p className="text-soft">
          The program answers to this machine alone. To measure and prove with a phone in the van, stop it and start it with{" "}
          <code className="font-mono">lucernis serve --share</code>; on a network that is not your own add <code className="font-mono">--tls</code>.
        </p>
      )}
      {data.warning && <p className="mb-3 border-l-4 border-fix bg-fix-wash p-3">{data.warning}</p>}
      {data.shared && decides && (
        <div className="flex flex-wrap items-start gap-6">
          {data.addresses.length > 0 && (
            <img src="/api/sharing/code.svg" alt="The address with the pairing code, for the camera of a phone" className="size-44 bg-white" />
          )}
          <div>
            <p>On the device open</p>
            <ul className="mb-2">
              {data.addresses.map((one) => (
                <li key={one} className="font-mono">{one}</li>
              ))}
            </ul>
            <p>and type</p>
            <p className="font-mono text-2xl">{data.code}</p>
            <p className="max-w-prose text-sm text-soft">
              The code changes at each start. A device that was let in works on jobs until it is withdrawn here: it plans, ticks and reads. Only the host and owners restore backups and
              change prices, terms and devices.
            </p>
          </div>
        </div>
      )}
      {data.shared && !decides && <p className="text-soft">Devices are let in and withdrawn at the host.</p>}
      {decides && data.devices.length > 0 && (
        <ul className="mt-4 border border-line bg-sheet">
          {data.devices.map((one) => (
            <Device key={one.device_id} one={one} job={jobs.find((job) => job.plan_id === one.plan_id)?.name ?? "a job that is not on the shelf"} />
          ))}
        </ul>
      )}
      {data.shared && decides && jobs.length > 0 && <LinkForm jobs={jobs} />}
    </section>
  );
}
