// The head of a page beside the shelf: the way back, what it is, the theme.
import { Link } from "react-router";
import { Button } from "./Button";
import { NEXT, type Theme } from "./theme";
import { ThemeIcon } from "./ThemeIcon";

export function PageHead({ title, theme, onTheme }: { title: string; theme: Theme; onTheme: () => void }) {
  return (
    <header className="flex flex-wrap items-center gap-x-4 border-b border-line bg-sheet px-4 py-1">
      <Link to="/" className="flex min-h-11 items-center text-lg font-bold tracking-tight">
        <span className="border-b-4 border-copper">Lucernis</span>
      </Link>
      <h1 className="grow text-base text-soft">{title}</h1>
      <Button look="quiet" aria-label={NEXT[theme].label} onClick={onTheme}>
        <ThemeIcon theme={theme} />
      </Button>
    </header>
  );
}
