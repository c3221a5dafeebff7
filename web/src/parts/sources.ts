// Which parts belong to the Power view: what gives, passes on or turns power.
import type { Part } from "../api/client";

const KINDS = ["battery", "alternator", "isolator", "charger", "panel"];

export function isSource(part: Part): boolean {
  return KINDS.includes(part.kind) || (part.kind === "load" && part.device === "inverter");
}
