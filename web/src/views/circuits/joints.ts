// How a wire may end, in words.
export const JOINT: Record<string, string> = {
  lug_large: "lug on a large stud",
  lug_small: "ring on a small stud",
  clamp: "screw clamp",
  push_on: "push-on terminal",
  splice: "splice",
  lever: "lever connector",
  plug: "plug-in pin",
  solar: "solar connector",
  cap: "capped",
};
