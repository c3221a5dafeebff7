// Daylight, dark, or glare for full sun: the system's wish until a person chooses; kept in the browser.
import { Contrast, Moon, Sun, type LucideIcon } from "lucide-react";
import { useEffect, useState } from "react";

export type Theme = "light" | "dark" | "glare";
const KEY = "lucernis-theme";

// What the button leads to.
export const NEXT: Record<Theme, { theme: Theme; label: string; Icon: LucideIcon }> = {
  light: { theme: "dark", label: "Dark theme", Icon: Moon },
  dark: { theme: "glare", label: "Glare theme", Icon: Contrast },
  glare: { theme: "light", label: "Daylight theme", Icon: Sun },
};

function first(): Theme {
  const kept = localStorage.getItem(KEY);
  if (kept !== null && kept in NEXT) return kept as Theme;
  return window.matchMedia("(prefers-color-scheme: dark)").matches ? "dark" : "light";
}

export function useTheme(): [Theme, () => void] {
  const [theme, setTheme] = useState<Theme>(first);
  useEffect(() => {
    document.documentElement.dataset.theme = theme;
  }, [theme]);
  const flip = () => {
    const next = NEXT[theme].theme;
    localStorage.setItem(KEY, next);
    setTheme(next);
  };
  return [theme, flip];
}
