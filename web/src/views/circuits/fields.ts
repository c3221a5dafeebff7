// What a person may set on each kind of part, in the order it is asked for.
export type Field =
  | { name: string; label: string; type: "number"; whole?: boolean }
  | { name: string; label: string; type: "check" }
  | { name: string; label: string; type: "choice"; options: readonly (readonly [string, string])[] };

const FAMILIES = [
  ["blade_mini", "mini blade"],
  ["blade_regular", "regular blade"],
  ["blade_maxi", "large blade"],
  ["bolt_m5", "small bolt-down (M5)"],
  ["bolt_m8", "large bolt-down (M8)"],
  ["anl", "ANL strip"],
  ["post_block", "battery-post block"],
  ["class_t", "class T"],
  ["breaker_auto", "auto-reset breaker"],
  ["breaker_manual", "manual-reset breaker"],
  ["breaker_magnetic", "magnetic breaker"],
] as const;

export const FAMILY_OPTIONS = FAMILIES;

const number = (name: string, label: string, whole = false): Field => ({ name, label, type: "number", whole });
const check = (name: string, label: string): Field => ({ name, label, type: "check" });
const choice = (name: string, label: string, options: readonly (readonly [string, string])[]): Field => ({ name, label, type: "choice", options });

export const FIELDS: Record<string, Field[]> = {
  battery: [
    choice("chemistry", "Chemistry", [
      ["lfp", "lithium (LFP)"],
      ["agm", "AGM lead"],
      ["gel", "gel lead"],
      ["flooded", "flooded lead"],
    ]),
    number("capacity_ah", "Capacity, Ah"),
    number("short_circuit_a", "Into a dead short by its maker, A"),
    number("internal_ohm", "Internal resistance by its maker, Ω"),
    number("rated_v", "Nominal volts, if not the plan's", true),
  ],
  fuse_block: [
    number("ways", "Ways", true),
    choice("family", "Fuses", FAMILIES),
    number("way_limit_a", "Greatest fuse a way takes, A"),
    number("total_limit_a", "Greatest current of the block, A"),
    number("second_bank_from", "Second bank from way", true),
    check("negative_bar", "has a bar for the negatives"),
  ],
  busbar: [
    choice("bars", "Bars", [
      ["both", "positive and negative"],
      ["positive", "positive"],
      ["negative", "negative"],
    ]),
    number("rated_a", "Rated, A"),
    number("studs", "Studs", true),
  ],
  switch: [
    choice("use", "Use", [
      ["isolator", "isolates the system"],
      ["circuit", "switches a circuit"],
    ]),
    choice("form", "Form", [
      ["single", "on and off"],
      ["three_position", "three positions"],
      ["reversing", "polarity-reversing"],
    ]),
    number("rated_a", "Rated, A"),
    number("short_time_a", "For half a minute, A"),
  ],
  keyed_feed: [
    choice("follows", "Live with", [
      ["key", "the key on"],
      ["engine", "the engine running"],
      ["shore", "shore power"],
    ]),
    number("rated_a", "Rated, A"),
  ],
  relay: [
    number("contact_a", "Contact, A"),
    number("coil_a", "Coil, A"),
    check("continuous", "made to stay on"),
    choice("suppression", "Across the coil", [
      ["none", "nothing"],
      ["diode", "diode"],
      ["resistor", "resistor"],
    ]),
  ],
  joint: [
    choice("form", "Form", [
      ["splice", "crimped splice"],
      ["lever", "lever connector"],
      ["plug", "plug-in connector"],
      ["stud", "junction stud"],
      ["outlet", "outlet"],
      ["towing_plug", "plug to a towed vehicle"],
    ]),
    number("rated_a", "For one pin, A"),
    number("pins", "Pins", true),
  ],
  shunt: [number("rated_a", "Rated, A"), number("rated_mv", "At full current, mV")],
  chassis_point: [check("bare_metal", "on clean bare metal")],
  load: [
    choice("device", "Device", [
      ["other", "other"],
      ["lamp", "lamp"],
      ["motor", "motor"],
      ["heater", "heater"],
      ["electronics", "electronics"],
      ["inverter", "inverter"],
    ]),
    number("min_v", "Lowest working volts"),
    number("inrush_factor", "Starting current, times running"),
    number("inrush_s", "It lasts, s"),
    number("cycle_on_s", "Cycles: on, s"),
    number("cycle_off_s", "Cycles: off, s"),
  ],
};
