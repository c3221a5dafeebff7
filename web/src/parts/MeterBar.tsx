// Which meter is read: by eye and typed, or one on the network that is asked. Several may be known, one is chosen.
import { Gauge } from "lucide-react";
import { useState } from "react";
import { toast } from "sonner";
import { NO_METER, readMeter, readMonitor, type MeterPlace } from "../api/prove";
import { Button } from "./Button";
import { Fold } from "./Fold";
import { amps, percent, volts } from "./format";
import { TextField } from "./Labelled";
import { Select } from "./Select";

type Props = { planId: string; meters: MeterPlace[]; chosen: MeterPlace; put: (meters: MeterPlace[], chosen: string) => void; onLeads: (leads_ohm: number) => void };

export function MeterBar({ planId, meters, chosen, put, onLeads }: Props) {
  const [name, setName] = useState("");
  const [host, setHost] = useState("127.0.0.1");
  const [port, setPort] = useState("5025");
  const [busy, setBusy] = useState(false);
  const [said, setSaid] = useState("");
  const add = () => {
    const one = { name: name.trim() === "" ? `${host}:${port}` : name.trim(), host: host.trim(), port: Number(port) };
    put([...meters.filter((other) => other.name !== one.name), one], one.name);
    setName("");
  };
  const monitor = async () => {
    setBusy(true);
    try {
      const one = await readMonitor(host.trim());
      setSaid(`${volts(one.voltage_v)} · ${amps(one.current_a)} · ${percent(one.charge_frac, 0)}`);
    } catch (error) {
      toast.error((error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  const leads = async () => {
    setBusy(true);
    try {
      const said = await readMeter(planId, chosen, "", "rest");
      onLeads(said.value);
      toast.success(`${said.instrument}: leads ${said.typed}`);
    } catch (error) {
      toast.error((error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  return (
    <div className="border border-line bg-sheet px-2 py-1">
      <div className="flex flex-wrap items-center gap-2">
        <Gauge size={20} aria-hidden />
        <div className="w-56">
          <Select
            label="Meter"
            value={chosen.name}
            options={[["", "Read by eye and typed"], ...meters.map((one) => [one.name, one.name, `${one.host}:${one.port}`] as const)]}
            onChange={(next) => put(meters, next)}
          />
        </div>
        {chosen.name !== "" && (
          <>
            <Button disabled={busy} onClick={() => void leads()}>
              Probes together: read the leads
            </Button>
            <Button look="quiet" onClick={() => put(meters.filter((one) => one.name !== chosen.name), NO_METER.name)}>
              Forget this meter
            </Button>
          </>
        )}
      </div>
      <Fold title="A meter on the network">
        <div className="flex flex-wrap items-end gap-2 pb-2">
          <div className="w-40">
            <TextField label="Name" value={name} onCommit={setName} onText={setName} />
          </div>
          <div className="w-40">
            <TextField label="Address" value={host} onCommit={setHost} onText={setHost} />
          </div>
          <div className="w-24">
            <TextField label="Port" value={port} onCommit={setPort} onText={setPort} inputMode="decimal" />
          </div>
          <Button disabled={host.trim() === "" || !/^\d{1,5}$/.test(port)} onClick={add}>
            Use it
          </Button>
          <div className="flex basis-full flex-wrap items-center gap-2">
            <Button disabled={busy || host.trim() === ""} onClick={() => void monitor()}>
              Read a battery monitor there, port 5026
            </Button>
            {said !== "" && <b className="font-mono" role="status">{said}</b>}
          </div>
          <p className="basis-full text-sm text-soft">
            One that speaks SCPI over TCP, on this machine or in a private network. To try without one: <code className="font-mono">lucernis meter --plan Heron --fault &quot;C11 joint 80 mohm&quot;</code>
          </p>
        </div>
      </Fold>
    </div>
  );
}
