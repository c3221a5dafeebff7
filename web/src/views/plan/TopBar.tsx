import { Moon, Redo2, Sun, Undo2 } from "lucide-react";
import { Link } from "react-router";
import { Button } from "../../parts/Button";
import { usePlan } from "../../parts/plan";

export function TopBar(props: {
  theme: "light" | "dark";
  onTheme: () => void;
  onState: (id: string | null) => void;
}) {
  const { envelope, stateId, busy, undo, redo } = usePlan();
  return (
    <header className="flex min-w-0 flex-wrap items-center gap-x-3 border-b border-line bg-sheet px-3 md:col-span-2">
      <Link to="/" className="flex min-h-11 items-center font-bold tracking-tight">
        <span className="border-b-4 border-copper">Lucernis</span>
      </Link>
      <h1 className="min-w-0 grow truncate text-base">
        <span className="font-bold">{envelope.plan.job.name}</span>
        <span className="text-soft max-md:hidden"> · {envelope.plan.job.vehicle?.name} · {envelope.report.practice_label}</span>
      </h1>
      <span role="status" className="text-sm text-soft max-md:sr-only">
        {busy ? "computing" : `revision ${envelope.revision}`}
      </span>
      <label className="flex items-center gap-2 text-sm">
        <span className="max-md:sr-only">State</span>
        <select
          className="min-h-11 border border-line bg-sheet px-2 text-ink max-md:w-36"
          value={stateId ?? ""}
          onChange={(event) => props.onState(event.target.value === "" ? null : event.target.value)}
        >
          <option value="">worst of all</option>
          {envelope.report.summary.states.map((state) => (
            <option key={state.state_id} value={state.state_id}>
              {state.name}
            </option>
          ))}
        </select>
      </label>
      <div className="flex">
        <Button look="quiet" aria-label="Undo" title="Undo (Ctrl+Z)" disabled={!envelope.can_undo} onClick={undo}>
          <Undo2 size={20} />
        </Button>
        <Button look="quiet" aria-label="Redo" title="Redo (Ctrl+Y)" disabled={!envelope.can_redo} onClick={redo}>
          <Redo2 size={20} />
        </Button>
        <Button look="quiet" aria-label={props.theme === "dark" ? "Daylight theme" : "Dark theme"} onClick={props.onTheme}>
          {props.theme === "dark" ? <Sun size={20} /> : <Moon size={20} />}
        </Button>
      </div>
    </header>
  );
}
