// What every view of a plan shares: the plan with its report, how to change it, the state being looked at.
import { createContext, useContext } from "react";
import type { Edit, Envelope, LoadReport, PatchOperation, RunReport, Schemas } from "../api/client";

// What can be done; it stays the same object while figures change, so that what only acts need not be drawn again.
export type Actions = {
  edit: (edits: Edit[]) => Promise<boolean>;
  patch: (patch: PatchOperation[]) => Promise<boolean>;
  restore: (revision: number) => Promise<boolean>;
  undo: () => void;
  redo: () => void;
  openWorking: (key: string) => void;
  goTo: (subject: string) => void;
};

export type Shared = Actions & {
  envelope: Envelope;
  stateId: string | null;
  // A change is being computed and stored; or the program does not answer and it waits here.
  busy: boolean;
  waiting: boolean;
};

export const ActionsContext = createContext<Actions | null>(null);

export function useActions(): Actions {
  const actions = useContext(ActionsContext);
  if (actions === null) throw new Error("outside of a plan");
  return actions;
}

export const PlanContext = createContext<Shared | null>(null);

export function usePlan(): Shared {
  const shared = useContext(PlanContext);
  if (shared === null) throw new Error("outside of a plan");
  return shared;
}

export function runFigures(run: RunReport, stateId: string | null): Schemas["RunState"] {
  return (stateId !== null ? run.states[stateId] : undefined) ?? run.worst;
}

export function loadFigures(load: LoadReport, stateId: string | null): Schemas["LoadState"] {
  return (stateId !== null ? load.states[stateId] : undefined) ?? load.worst;
}
