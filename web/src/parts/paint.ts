// Colours of wires as they are painted on screen, the same in every theme.
export const PAINT: Record<string, string> = {
  red: "#c22f2a",
  black: "#17191b",
  yellow: "#e2bd1c",
  brown: "#6d4424",
  blue: "#2b62ad",
  green: "#2f7d43",
  white: "#f7f7f5",
  orange: "#dd7420",
  grey: "#858c92",
  purple: "#6f4a96",
  pink: "#d98aa5",
  tan: "#c7a478",
};
