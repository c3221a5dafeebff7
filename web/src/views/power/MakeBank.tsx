// A battery made into a bank of equal ones: so many in series, so many of these strings side by side.
import { useState } from "react";
import { Ask } from "../../parts/Ask";
import { Choice, TextField } from "../../parts/Labelled";
import { usePlan } from "../../parts/plan";

const TAKE_OFF = [
  ["busbar", "each string by its own fused cable to bars"],
  ["diagonal", "a chain, taken off at opposite ends"],
  ["same_end", "a chain, taken off at one end"],
] as const;
const COUNTS = ["1", "2", "3", "4"].map((one) => [one, one] as const);

export function MakeBank({ open, onClose }: { open: boolean; onClose: () => void }) {
  const { envelope, edit } = usePlan();
  const batteries = (envelope.plan.parts ?? []).filter((one) => one.kind === "battery");
  const [battery, setBattery] = useState(batteries.find((one) => one.use !== "starter")?.id ?? "");
  const [series, setSeries] = useState("1");
  const [parallel, setParallel] = useState("2");
  const [takeOff, setTakeOff] = useState<(typeof TAKE_OFF)[number][0]>("busbar");
  const [length, setLength] = useState(envelope.plan.units === "us" ? "1 ft" : "0.3 m");
  const problem = series === "1" && parallel === "1" ? "One battery is no bank." : null;
  return (
    <Ask
      open={open}
      title="Make a bank"
      about="Copies of the battery, linked; what hung on its posts hangs on those of the bank. How they share is solved with the whole circuit."
      yes="Make it"
      problem={problem}
      disabled={problem !== null || battery === ""}
      onYes={() =>
        void edit([
          { op: "make_bank", battery, series: Number(series), parallel: Number(parallel), take_off: takeOff, link_length: length },
        ]).then((done) => done && onClose())
      }
      onClose={onClose}
    >
      <Choice label="Of battery" value={battery} options={batteries.map((one) => [one.id, `${one.tag} ${one.name}`] as const)} onChange={setBattery} />
      <div className="grid grid-cols-2 gap-3">
        <Choice label="In series" value={series} options={COUNTS} onChange={setSeries} />
        <Choice label="Side by side" value={parallel} options={COUNTS} onChange={setParallel} />
      </div>
      <Choice label="Taken off" value={takeOff} options={TAKE_OFF} onChange={(value) => setTakeOff(value as typeof takeOff)} />
      <TextField label="Length of a link" value={length} onCommit={setLength} />
    </Ask>
  );
}
