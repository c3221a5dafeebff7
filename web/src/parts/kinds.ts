// What each kind of part is called.
export const KIND: Record<string, string> = {
  battery: "battery",
  alternator: "alternator",
  isolator: "link to the starter side",
  charger: "charger",
  panel: "panels",
  fuse_block: "fuse block",
  busbar: "busbar",
  switch: "switch",
  keyed_feed: "keyed feed",
  relay: "relay",
  diode: "diode",
  joint: "joint",
  shunt: "measuring shunt",
  chassis_point: "chassis point",
  load: "load",
};
