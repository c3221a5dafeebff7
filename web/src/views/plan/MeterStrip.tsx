// The foot of the screen: five figures that are always true, each a way to what it names.
import { useNavigate } from "react-router";
import { amps, celsius, chargeADay, percent } from "../../parts/format";
import { usePlan } from "../../parts/plan";
import { Verdict } from "../../parts/Verdict";

function Meter({ name, value, tag, onClick }: { name: string; value: string; tag?: string; onClick: () => void }) {
  return (
    <button
      type="button"
      onClick={onClick}
      className="flex min-h-12 grow flex-col items-start justify-center px-3 py-1 text-left whitespace-nowrap hover:bg-zinc"
    >
      <span className="text-xs text-soft">{name}</span>
      <span className="text-lg leading-6 font-bold">
        {value} {tag && <span className="font-mono text-sm font-normal">{tag}</span>}
      </span>
    </button>
  );
}

export function MeterStrip() {
  const { envelope, stateId, openWorking, goTo } = usePlan();
  const navigate = useNavigate();
  const summary = envelope.report.summary;
  const state = summary.states.find((one) => one.state_id === stateId);
  const worst = state?.worst_drop_frac ?? summary.worst_drop_frac;
  const hottest = summary.hottest_wire_c;
  const open: string = String(summary.open_stop);
  return (
    <footer aria-label="Meter strip" className="flex min-w-0 relative overflow-x-auto border-t-2 border-ink bg-sheet">
      <Meter name="From the battery" value={amps(state?.battery_current_a ?? summary.battery_current_a)} onClick={() => openWorking("plan.battery_current_a")} />
      <Meter name="A day" value={chargeADay(summary.ah_per_day)} onClick={() => openWorking("plan.ah_per_day")} />
      <Meter
        name="Worst drop"
        value={percent(worst.value)}
        tag={worst.tag}
        onClick={() => worst.subject !== null && openWorking(`${worst.subject}.conductor_drop_v`)}
      />
      <Meter
        name="Hottest wire"
        value={celsius(hottest.value)}
        tag={hottest.tag}
        onClick={() => hottest.subject !== null && goTo(hottest.subject)}
      />
      <button
        type="button"
        onClick={() => void navigate("checks")}
        className="flex min-h-12 grow flex-col items-start justify-center px-3 py-1 text-left whitespace-nowrap hover:bg-zinc"
      >
        <span className="text-xs text-soft">Open stops</span>
        <span className="text-lg leading-6 font-bold">
          {!envelope.case_id && open} <Verdict grade={open === "0" ? "good" : "stop"} word={false} />
        </span>
      </button>
    </footer>
  );
}
