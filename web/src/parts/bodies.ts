import type { Schemas } from "../api/client";

export type Body = NonNullable<Schemas["Vehicle"]["body"]>;

export const BODIES: readonly (readonly [Body, string])[] = [
  ["steel", "Steel"],
  ["aluminium", "Aluminium"],
  ["fibreglass_or_wood", "Fibreglass or wood"],
  ["boat_hull", "Boat hull"],
  ["frame", "Frame"],
];
