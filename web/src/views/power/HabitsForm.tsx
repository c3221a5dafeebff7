// How the vehicle is lived in: the course of a day, where it stands, what the weather gives, what it must last.
import { useQuery } from "@tanstack/react-query";
import { Plus, SplitSquareVertical, Trash2 } from "lucide-react";
import { Button } from "../../parts/Button";
import { Fold } from "../../parts/Fold";
import { number as rounded } from "../../parts/format";
import { Choice, TextField } from "../../parts/Labelled";
import { NumberField } from "../../parts/NumberField";
import { usePlan } from "../../parts/plan";
import { Tip } from "../../parts/Tip";
import { weatherQuery } from "./queries";

const MONTHS = ["January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November", "December"].map(
  (name, index) => [String([1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12][index]), name] as const,
);

export function HabitsForm() {
  const { envelope, patch, edit } = usePlan();
  const { data: files = [] } = useQuery(weatherQuery);
  const energy = envelope.plan.energy ?? {};
  const states = envelope.plan.states ?? [];
  const set = (path: string, value: unknown) => patch([{ op: "add", path: `/energy/${path}`, value }]);
  const number = (field: keyof typeof energy, label: string, hint = "") => (
    <NumberField label={label} hint={hint} value={energy[field] as number | null} onCommit={(value) => set(field, value)} />
  );
  const percentOf = (field: keyof typeof energy, label: string, hint = "") => (
    <NumberField label={label} hint={hint} percent value={energy[field] as number | null} onCommit={(value) => set(field, value)} />
  );
  const day = energy.day ?? [];
  const stops = energy.stops ?? [];
  return (
    <div className="space-y-4">
      <fieldset>
        <legend className="text-sm font-semibold">A day from midnight, 24 h in all</legend>
        <ul className="space-y-1">
          {day.map((slot, index) => (
            <li key={index} className="grid grid-cols-[1fr_5rem_auto_auto] items-end gap-1">
              <Choice
                label={index === 0 ? "State" : "then"}
                value={slot.state}
                options={states.map((one) => [one.id, one.name] as const)}
                onChange={(value) => edit([{ op: "set_slot", slot: slot.id ?? null, state: value, action: "change" }])}
              />
              <NumberField label="Hours" value={slot.hours} onCommit={(value) => edit([{ op: "set_slot", slot: slot.id ?? null, hours: value as number, action: "change" }])} />
              <Tip text="Split in two">
                <Button look="quiet" aria-label={`Split stretch ${index + 1}`} onClick={() => void edit([{ op: "set_slot", slot: slot.id ?? null, action: "split" }])}>
                  <SplitSquareVertical size={18} />
                </Button>
              </Tip>
              <Tip text="Give its hours to the next">
                <Button look="quiet" aria-label={`Remove stretch ${index + 1}`} onClick={() => void edit([{ op: "set_slot", slot: slot.id ?? null, action: "remove" }])}>
                  <Trash2 size={18} />
                </Button>
              </Tip>
            </li>
          ))}
        </ul>
        {day.length === 0 && (
          <div className="space-y-2">
            <p className="text-sm text-soft">All day in the state with most loads on.</p>
            <Button onClick={() => void edit([{ op: "set_slot", action: "split" }])}>
              <SplitSquareVertical size={18} /> Split the day
            </Button>
          </div>
        )}
        <p className="mt-1 text-sm text-soft">Hours given to one stretch are taken from the next.</p>
      </fieldset>
      <fieldset className="space-y-1">
        <legend className="text-sm font-semibold">Where it stands, one after the other</legend>
        {stops.map((stop, index) => (
          <Fold
            key={index}
            className="border border-line bg-sheet px-2"
            title={`${stop.name} · ${stop.days ?? 7} d · ${rounded(stop.latitude_deg, 1)}°, ${rounded(stop.longitude_deg, 1)}°`}
          >
            <div className="grid grid-cols-2 gap-2 pb-2">
              <TextField label="Name" value={stop.name} onCommit={(text) => set(`stops/id:${stop.id}/name`, text)} />
              <NumberField label="Days" value={stop.days} onCommit={(value) => set(`stops/id:${stop.id}/days`, value)} />
              <NumberField label="Latitude, °" value={stop.latitude_deg} onCommit={(value) => set(`stops/id:${stop.id}/latitude_deg`, value)} />
              <NumberField label="Longitude, °" value={stop.longitude_deg} onCommit={(value) => set(`stops/id:${stop.id}/longitude_deg`, value)} />
              <NumberField label="Shade, %" percent value={stop.shade_frac} onCommit={(value) => set(`stops/id:${stop.id}/shade_frac`, value)} />
              <Button onClick={() => void patch([{ op: "remove", path: `/energy/stops/id:${stop.id}` }])}>Remove</Button>
            </div>
          </Fold>
        ))}
        {stops.length === 0 && <p className="text-sm text-soft">No stop named: no sun is counted.</p>}
        <Button onClick={() => void set("stops/-", { name: `Stop ${stops.length > 0 ? "more" : "one"}`, latitude_deg: 45, longitude_deg: 0 })}>
          <Plus size={18} /> Another stop
        </Button>
      </fieldset>
      <div className="grid grid-cols-2 gap-2">
        <Choice label="Month" value={String(energy.month ?? 6)} options={MONTHS} onChange={(value) => set("month", Number(value))} />
        <Choice label="Weather" value={energy.weather ?? ""} options={[["", "clear sky, fair and poor"], ...files.map((one) => [one, `file ${one}`] as const)]} onChange={(value) => set("weather", value === "" ? null : value)} />
        {percentOf("fair_frac", "Fair weather, % of clear sky")}
        {percentOf("poor_frac", "Poor weather, % of clear sky")}
        {number("days", "To last without charge, days")}
        {percentOf("usable_frac", "Used of the bank, %", "by chemistry when empty")}
        {number("outside_c", "Air by day, °C")}
        {number("battery_c", "Bank, °C")}
        {number("coldest_c", "Coldest morning with sun, °C")}
      </div>
    </div>
  );
}
