// Devices of the network: how they are let in, and which are.
import { queryOptions, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answered, client } from "../../api/client";
import { Button } from "../../parts/Button";
import { date } from "../../parts/format";

const sharingQuery = queryOptions({ queryKey: ["sharing"], queryFn: () => answered(client.GET("/api/sharing")) });

export function SharingPanel() {
  const cache = useQueryClient();
  const { data } = useQuery(sharingQuery);
  const withdraw = useMutation({
    mutationFn: (device_id: string) => answered(client.DELETE("/api/devices/{device_id}", { params: { path: { device_id } } })),
    onSuccess: () => void cache.invalidateQueries({ queryKey: sharingQuery.queryKey }),
  });
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
      {data.shared && data.at_host && (
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
            <p className="text-sm text-soft">The code is another at each start. A device that was let in stays so until it is withdrawn here.</p>
          </div>
        </div>
      )}
      {data.shared && !data.at_host && <p className="text-soft">Devices are let in and withdrawn at the host.</p>}
      {data.at_host && data.devices.length > 0 && (
        <ul className="mt-4 border border-line bg-sheet">
          {data.devices.map((one) => (
            <li key={one.device_id} className="flex items-center gap-3 border-b border-line p-2 last:border-b-0">
              <span className="grow">
                {one.name} <span className="text-sm text-soft">let in {date(one.made_at)}</span>
              </span>
              <Button aria-label={`Withdraw ${one.name}`} onClick={() => withdraw.mutate(one.device_id)}>
                Withdraw
              </Button>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
