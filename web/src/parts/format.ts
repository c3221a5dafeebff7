// All rounding and unit display, in one file. Figures arrive in SI; nothing is computed from them here.
import type { Schemas } from "../api/client";

export type Units = Schemas["Plan"]["units"];

const METRE_PER_FOOT = 0.3048;

// What rounds to nothing has no sign.
export function number(value: number, digits: number): string {
  const text = value.toFixed(digits);
  return Number(text) === 0 ? text.replace("-", "") : text;
}

export function amps(current_a: number | null | undefined): string {
  if (current_a === null || current_a === undefined) return "–";
  return `${current_a >= 100 ? number(current_a, 0) : number(current_a, current_a >= 10 ? 1 : 2)} A`;
}

/** Current squared times time, as fuses are told by. */
export function heat(heat_a2s: number): string {
  if (heat_a2s >= 1e6) return `${number(heat_a2s / 1e6, heat_a2s >= 1e7 ? 0 : 1)} MA²s`;
  if (heat_a2s >= 1e3) return `${number(heat_a2s / 1e3, heat_a2s >= 1e4 ? 0 : 1)} kA²s`;
  return `${number(heat_a2s, 0)} A²s`;
}

export function volts(value_v: number): string {
  return `${number(value_v, 2)} V`;
}

export function percent(value_frac: number | null | undefined, digits = 1): string {
  if (value_frac === null || value_frac === undefined) return "–";
  return `${number(100 * value_frac, digits)} %`;
}

export function plainPercent(value_frac: number): string {
  return `${Number((100 * value_frac).toPrecision(6))}`;
}

export function length(length_m: number, units: Units): string {
  return units === "us" ? `${number(length_m / METRE_PER_FOOT, 1)} ft` : `${number(length_m, 2)} m`;
}

const METRE_PER_INCH = 0.0254;

// Units a length is typed in; what is kept is always metres.
export function lengthUnit(units: Units, short = false): string {
  return units === "us" ? (short ? "in" : "ft") : "m";
}

/** Units a tape is read in, for the keys of a length field. */
export function lengthKeys(units: Units): readonly string[] {
  return units === "us" ? ["ft", "in", "m"] : ["m", "cm", "mm"];
}

function metresPer(units: Units, short: boolean): number {
  return units === "us" ? (short ? METRE_PER_INCH : METRE_PER_FOOT) : 1;
}

export function typedLength(value_m: number | null | undefined, units: Units, short = false): number | null {
  return value_m === null || value_m === undefined ? null : Number((value_m / metresPer(units, short)).toPrecision(4));
}

export function metresOf(typed: number, units: Units, short = false): number {
  return Number((typed * metresPer(units, short)).toPrecision(6));
}

export function distance(distance_m: number, units: Units): string {
  return units === "us" ? `${number(distance_m / METRE_PER_INCH, 1)} in` : `${number(1000 * distance_m, 0)} mm`;
}

export function millimetres(value_mm: number | null | undefined): string {
  return value_mm === null || value_mm === undefined ? "–" : `${number(value_mm, value_mm < 10 ? 1 : 0)} mm`;
}

// A length nobody has measured yet.
export function guessed(length_m: number | null | undefined, is_guess: boolean, units: Units): string {
  return length_m === null || length_m === undefined ? "no length" : `${is_guess ? "~" : ""}${length(length_m, units)}`;
}

export function wholeAmps(current_a: number): string {
  return current_a >= 1000 ? `${number(current_a / 1000, 1)} kA` : `${number(current_a, 0)} A`;
}

export function seconds(time_s: number): string {
  if (time_s >= 120) return `${number(time_s / 60, 0)} min`;
  return `${Number(time_s.toPrecision(2))} s`;
}

export function celsius(temp_c: number): string {
  return `${number(temp_c, 0)} °C`;
}

export function chargeADay(value_ah: number | null | undefined): string {
  return value_ah === null || value_ah === undefined ? "–" : `${number(value_ah, 1)} Ah`;
}

export function wattHours(energy_wh: number): string {
  return energy_wh >= 1000 ? `${number(energy_wh / 1000, 1)} kWh` : `${number(energy_wh, 0)} Wh`;
}

export function watts(power_w: number | null | undefined): string {
  return power_w === null || power_w === undefined ? "–" : `${number(power_w, 0)} W`;
}

export function hoursLong(time_h: number | null | undefined): string {
  if (time_h === null || time_h === undefined) return "never";
  return time_h >= 48 ? `${number(time_h / 24, 1)} days` : `${number(time_h, 1)} h`;
}

export function daysLong(days: number | null | undefined): string {
  return days === null || days === undefined ? "–" : `${number(days, 1)} ${number(days, 1) === "1.0" ? "day" : "days"}`;
}

export function money(value: number | null | undefined): string {
  return value === null || value === undefined ? "no price" : number(value, value >= 100 ? 0 : 2);
}

export function kilograms(mass_kg: number): string {
  return `${number(mass_kg, 1)} kg`;
}

export function typed(value: number | null | undefined): string {
  return value === null || value === undefined ? "" : String(Number(value.toPrecision(6)));
}

export function short(value: number | null | undefined): string {
  return value === null || value === undefined ? "" : String(Number(value.toPrecision(3)));
}

export function milliohms(resistance_ohm: number): string {
  return `${(1000 * resistance_ohm).toPrecision(3)} mΩ`;
}

// A conductor is drawn as thick as it is: so many pixels for each millimetre of metal.
export function strokePixels(diameter_mm: number): number {
  return Math.max(1, diameter_mm * 1.3);
}

export function figure(value: number | string | null | undefined, unit: string): string {
  if (value === null || value === undefined) return "none";
  if (typeof value === "string") return unit ? `${value} ${unit}` : value;
  if (unit === "frac") return `${(100 * value).toPrecision(3)} %`;
  const shown = Math.abs(value) >= 1000 ? number(value, 0) : String(Number(value.toPrecision(4)));
  return unit ? `${shown} ${unit}` : shown;
}

export function day(stamp: string): string {
  return new Date(stamp).toLocaleDateString(undefined, { dateStyle: "medium" });
}

export function date(iso: string): string {
  return new Date(iso).toLocaleString(undefined, { dateStyle: "medium", timeStyle: "short" });
}

// The figures of a library part in a line.
const FACTS: [string, (value: number) => string][] = [
  ["capacity_ah", (value) => `${typed(value)} Ah`],
  ["rated_a", (value) => `${typed(value)} A`],
  ["contact_a", (value) => `${typed(value)} A contact`],
  ["short_time_a", (value) => `${typed(value)} A for half a minute`],
  ["ways", (value) => `${typed(value)} ways`],
  ["way_limit_a", (value) => `${typed(value)} A a way`],
  ["total_limit_a", (value) => `${typed(value)} A in all`],
  ["studs", (value) => `${typed(value)} studs`],
  ["pins", (value) => `${typed(value)} pins`],
  ["rated_mv", (value) => `${typed(value)} mV`],
  ["power_w", (value) => `${typed(value)} W`],
];

export function partFacts(part: Record<string, unknown>): string {
  return FACTS.flatMap(([name, show]) => (typeof part[name] === "number" ? [show(part[name])] : [])).join(" · ");
}
