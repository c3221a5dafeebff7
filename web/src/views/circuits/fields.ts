// What a person may set on each kind of part, in the order it is asked for.
export type Field =
  | { name: string; label: string; type: "number"; whole?: boolean; percent?: boolean }
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
const percent = (name: string, label: string): Field => ({ name, label, type: "number", percent: true });
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
    choice("use", "Use", [
      ["house", "house side"],
      ["starter", "starts the engine"],
    ]),
    number("discharge_a", "Max continuous discharge, A"),
    number("discharge_short_a", "For a few seconds, A"),
    number("charge_a", "Max charge, A"),
    number("charge_least_c", "Not charged below, °C"),
    number("hottest_c", "Max temperature around it, °C"),
    number("heater_w", "Heater pads, W"),
    number("mass_kg", "Mass, kg"),
    number("stud_mm", "Post thread, mm"),
    number("made_year", "Made in", true),
    check("bare_cells", "bare lithium cells, no management of their own"),
    check("engine_space", "made for an engine space"),
    check("splash", "made to get wet"),
  ],
  alternator: [
    number("rated_a", "Rated, A"),
    number("idle_frac", "Share of it hot and at idle"),
    choice("regulation", "Its voltage", [
      ["steady", "holds steady"],
      ["sagging", "sags by the engine's computer"],
    ]),
    number("held_v", "Holds, V"),
    number("vehicle_a", "The vehicle itself takes, A"),
  ],
  isolator: [
    choice("form", "Form", [
      ["voltage_sensing", "voltage-sensing contact"],
      ["diode", "diodes"],
    ]),
    number("rated_a", "Rated, A"),
    number("close_v", "Closes at, V"),
    number("open_v", "Opens at, V"),
    number("diode_v", "Lost in a diode, V"),
    check("two_way", "closes for house chargers too"),
  ],
  charger: [
    choice("form", "Fed by", [
      ["dcdc", "another battery"],
      ["sun", "panels"],
      ["shore", "the mains (shore power)"],
    ]),
    choice("chemistry", "Set for", [
      ["", "not set"],
      ["lfp", "lithium (LFP)"],
      ["agm", "AGM lead"],
      ["gel", "gel lead"],
      ["flooded", "flooded lead"],
    ]),
    choice("sense", "Knows of the engine by", [
      ["not_set", "nothing yet"],
      ["wired", "an ignition wire"],
      ["voltage", "its voltage"],
    ]),
    number("out_a", "Max output, A"),
    number("outputs", "Positives out", true),
    percent("efficiency_frac", "Efficiency, %"),
    number("in_a", "Max input, A"),
    number("in_low_v", "Lowest input, V"),
    number("in_high_v", "Highest input, V"),
    number("pv_high_v", "Max panel voltage (Voc), V"),
    number("pv_w", "Max panel power, W"),
    number("pv_a", "Max panel current (Isc), A"),
    number("hottest_c", "Max temperature around it, °C"),
    number("standby_w", "Standby, W"),
    check("shared_negative", "one negative for input and output"),
    check("engine_space", "made for an engine space"),
    check("splash", "made to get wet"),
  ],
  panel: [
    number("power_w", "Max power of one, W"),
    number("mp_v", "Volts at max power (Vmp)"),
    number("open_v", "Open-circuit volts"),
    number("short_a", "Short-circuit current, A"),
    number("series", "In series", true),
    number("strings", "Strings side by side", true),
    percent("open_frac_per_k", "Voc changes, % per K"),
    percent("power_frac_per_k", "Power changes, % per K"),
    number("mass_kg", "Mass of one, kg"),
  ],
  fuse_block: [
    number("ways", "Ways", true),
    choice("family", "Fuses", FAMILIES),
    number("way_limit_a", "Max fuse of a way, A"),
    number("total_limit_a", "Max current of the block, A"),
    number("second_bank_from", "Second bank from way", true),
    check("negative_bar", "has a bar for the negatives"),
    check("engine_space", "made for an engine space"),
    check("splash", "made to get wet"),
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
    choice("position_b", "Live in position b", [
      ["b", "the second way out"],
      ["both", "both ways out"],
    ]),
    number("poles", "Poles", true),
    number("rated_a", "Rated, A"),
    number("short_time_a", "For half a minute, A"),
    check("engine_space", "made for an engine space"),
    check("splash", "made to get wet"),
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
  diode: [number("rated_a", "Rated, A"), number("drop_v", "Lost in it at its rating, V")],
  joint: [
    choice("form", "Form", [
      ["splice", "crimped splice"],
      ["lever", "lever connector"],
      ["plug", "plug-in connector"],
      ["stud", "junction stud"],
      ["outlet", "outlet"],
      ["towing_plug", "plug to a towed vehicle"],
      ["cap", "capped end of a spare"],
    ]),
    number("rated_a", "For one pin, A"),
    number("pins", "Pins", true),
  ],
  shunt: [number("rated_a", "Rated, A"), number("rated_mv", "At full current, mV")],
  chassis_point: [check("bare_metal", "on clean bare metal"), check("sealed", "tinned lug, greased and sealed")],
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
    number("cycle_start_s", "Cycles: the first begins after, s"),
    check("stays_live", "stays live with the main switch off"),
    check("engine_space", "made for an engine space"),
    check("splash", "made to get wet"),
  ],
};
