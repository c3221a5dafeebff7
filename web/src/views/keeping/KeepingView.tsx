// Where jobs are kept: the data file, its backups, and the devices of the network that are let in.
import { Moon, Sun } from "lucide-react";
import { Link } from "react-router";
import { Button } from "../../parts/Button";
import { BackupsPanel } from "./BackupsPanel";
import { SharingPanel } from "./SharingPanel";

export function KeepingView({ theme, onTheme }: { theme: "light" | "dark"; onTheme: () => void }) {
  return (
    <div className="min-h-dvh">
      <header className="flex flex-wrap items-center gap-x-4 border-b border-line bg-sheet px-4 py-1">
        <Link to="/" className="flex min-h-11 items-center text-lg font-bold tracking-tight">
          <span className="border-b-4 border-copper">Lucernis</span>
        </Link>
        <h1 className="grow text-base text-soft">Backups and devices</h1>
        <Button look="quiet" aria-label={theme === "dark" ? "Daylight theme" : "Dark theme"} onClick={onTheme}>
          {theme === "dark" ? <Sun size={20} /> : <Moon size={20} />}
        </Button>
      </header>
      <main className="mx-auto max-w-5xl space-y-8 p-4">
        <BackupsPanel />
        <SharingPanel />
      </main>
    </div>
  );
}
