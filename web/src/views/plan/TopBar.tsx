import { Redo2, Search, Undo2 } from "lucide-react";
import { Link } from "react-router";
import { usePlan } from "../../parts/plan";
import { Select } from "../../parts/Select";
import { Tool, Toolbar } from "../../parts/Toolbar";
import { NEXT, type Theme } from "../../parts/theme";
import { ThemeIcon } from "../../parts/ThemeIcon";
import { Waiting } from "./Waiting";

export function TopBar(props: {
  theme: Theme;
  onTheme: () => void;
  onState: (id: string | null) => void;
  onFind: () => void;
}) {
  const { envelope, stateId, busy, waiting, undo, redo } = usePlan();
  return (
    <header className="flex min-w-0 flex-wrap items-center gap-x-3 border-b border-line bg-sheet px-3 md:col-span-2">
      <Link to="/" className="flex min-h-11 items-center font-bold tracking-tight">
        <span className="border-b-4 border-copper">Lucernis</span>
      </Link>
      <h1 className="min-w-0 grow truncate text-base">
        <span className="font-bold">{envelope.plan.job.name}</span>
        <span className="text-soft max-md:hidden"> · {envelope.plan.job.vehicle?.name} · {envelope.report.practice_label}</span>
      </h1>
      <span role="status" className={`text-sm text-soft ${waiting ? "" : "max-md:sr-only"}`}>
        {waiting ? <b className="text-fix">waiting for the server</b> : busy ? "saving" : `saved · revision ${envelope.revision}`}
      </span>
      {waiting && <Waiting planId={envelope.plan_id} name={envelope.plan.job.name} />}
      <div className="flex items-center gap-2 text-sm">
        <label htmlFor="state-shown" className="max-md:sr-only">
          State
        </label>
        <Select
          id="state-shown"
          className="min-h-11 w-44 border border-line bg-sheet px-2 max-md:w-36"
          value={stateId ?? ""}
          options={[["", "worst of all"], ...envelope.report.summary.states.map((state) => [state.state_id, state.name] as const)]}
          onChange={(id) => props.onState(id === "" ? null : id)}
        />
      </div>
      <Toolbar label="Plan">
        <Tool label="Find" tip="Find anything (Ctrl+K)" onClick={props.onFind}>
          <Search size={20} />
        </Tool>
        <Tool label="Undo" tip="Undo (Ctrl+Z)" disabled={!envelope.can_undo} onClick={undo}>
          <Undo2 size={20} />
        </Tool>
        <Tool label="Redo" tip="Redo (Ctrl+Y)" disabled={!envelope.can_redo} onClick={redo}>
          <Redo2 size={20} />
        </Tool>
        <Tool label={NEXT[props.theme].label} onClick={props.onTheme}>
          <ThemeIcon theme={props.theme} />
        </Tool>
      </Toolbar>
    </header>
  );
}
