// Where jobs are kept: the data file, its backups, and the devices of the network that are let in.
import { PageHead } from "../../parts/PageHead";
import { BackupsPanel } from "./BackupsPanel";
import { SharingPanel } from "./SharingPanel";
import type { Theme } from "../../parts/theme";

export function KeepingView({ theme, onTheme }: { theme: Theme; onTheme: () => void }) {
  return (
    <div className="min-h-dvh">
      <PageHead title="Backups and devices" theme={theme} onTheme={onTheme} />
      <main className="mx-auto max-w-5xl space-y-8 p-4">
        <BackupsPanel />
        <SharingPanel />
      </main>
    </div>
  );
}
