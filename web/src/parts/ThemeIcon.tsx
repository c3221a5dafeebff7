// The sign of the theme the button leads to.
import { NEXT, type Theme } from "./theme";

export function ThemeIcon({ theme }: { theme: Theme }) {
  const { Icon } = NEXT[theme];
  return <Icon size={20} aria-hidden />;
}
