// A load a card: what it is and draws in its first line, its fields under it when asked for.
import { Trash2 } from "lucide-react";
import type { Column, Load, LoadReport } from "../../api/client";
import { Button } from "../../parts/Button";
import { amps, chargeADay, guessed, lengthKeys, percent, short, typed, watts } from "../../parts/format";
import { Fold } from "../../parts/Fold";
import { Choice, TextField } from "../../parts/Labelled";
import { loadFigures, usePlan } from "../../parts/plan";
import type { Options } from "../../parts/Select";
import { Sleeve } from "../../parts/Sleeve";
import { Verdict } from "../../parts/Verdict";

export function LoadCard({ load, report, places, feeds }: { load: Load; report: LoadReport; places: Options; feeds: Options }) {
  const { envelope, edit, stateId } = usePlan();
  const units = envelope.plan.units ?? "metric";
  const now = loadFigures(report, stateId);
  const run = envelope.plan.runs?.find((one) => one.id === report.circuit);
  const place = envelope.plan.places?.find((one) => one.id === load.place);
  const set = (column: Column) => (text: string) => edit([{ op: "set_cell", part: load.id, column, text, confirmed: false }]);
  const type = (column: Column, label: string, value: string, decimal = true, keys: readonly string[] = []) => (
    <TextField label={`${label}, ${load.name}`} value={value} inputMode={decimal ? "decimal" : "text"} keys={decimal ? keys : undefined} onCommit={(text) => void set(column)(text)} />
  );
  return (
    <li id={`load-${load.id}`} className="border border-line bg-sheet p-3">
      <div className="flex items-center gap-2">
        <Sleeve tag={load.tag} colour={envelope.plan.wire_colours?.positive ?? "red"} />
        <b className="grow">{load.name}</b>
        <Verdict grade={report.verdict} word={report.verdict !== "good"} />
      </div>
      <p className="font-mono">
        {watts(report.power_w)} · {amps(report.current_a)} · {chargeADay(report.ah_per_day)}
      </p>
      <p className="text-sm text-soft">
        {report.circuit === null ? "on no circuit" : `${report.circuit_tag}, ${guessed(report.length_m, run?.length_guessed ?? false, units)}, ${now.on ? `${percent(now.conductor_drop_frac)} lost` : "off"}`}
        {place && ` · ${place.name}`}
      </p>
      <Fold title={`Change ${load.name}`}>
        <div className="grid grid-cols-2 gap-3 pt-1 [&_label]:text-xs">
          {type("name", "Name", load.name, false)}
          {type("count", "Count", String(load.count ?? 1))}
          {type("power_w", "Watts each", load.power_w ? typed(load.power_w) : short(report.each_power_w))}
          {type("current_a", "Amps each", load.current_a ? typed(load.current_a) : short(report.each_current_a))}
          {type("hours_per_day", "Hours a day", typed(load.hours_per_day))}
          {report.length_m !== null && type("length", "One way", guessed(report.length_m, run?.length_guessed ?? false, units), true, lengthKeys(units))}
          <Choice label={`Place, ${load.name}`} value={place?.name ?? ""} options={places} onChange={set("place")} />
          <Choice
            label={`Fed from, ${load.name}`}
            value={report.fed_from ?? ""}
            options={[["", "no circuit"], ...feeds.filter(([id]) => id !== load.id)]}
            onChange={(on) => edit([on === "" ? { op: "take_off", part: load.id } : { op: "put_load", part: load.id, on, reading: "one_way", confirmed: false }])}
          />
        </div>
        <Button className="mt-3" onClick={() => void edit([{ op: "delete_part", part: load.id }])}>
          <Trash2 size={18} /> Delete it
        </Button>
      </Fold>
    </li>
  );
}
