// What a wire can go through.
export const THROUGH = [
  ["firewall", "firewall"],
  ["metal", "sheet metal"],
  ["plastic_or_wood", "plastic or wood"],
  ["roof", "roof"],
] as const;

export const THROUGH_NAME: Record<string, string> = Object.fromEntries(THROUGH);
