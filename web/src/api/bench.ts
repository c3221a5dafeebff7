// The bench: set-ups followed through time, what there is to choose from, a run of a plan put on it.
import { queryOptions } from "@tanstack/react-query";
import { answered, client, type Schemas } from "./client";

export type Setup = Required<Schemas["Setup"]> & {
  source: Required<Schemas["BenchSource"]>;
  wire: Required<Schemas["BenchWire"]>;
  end: Required<Schemas["BenchEnd"]>;
  load: Required<Schemas["BenchLoad"]>;
  fuse: Required<Schemas["BenchFuse"]> | null;
};
export type Course = Schemas["BenchCourse"];
export type Happens = "load" | "short";

export const benchChoicesQuery = queryOptions({ queryKey: ["bench-choices"], queryFn: () => answered(client.GET("/api/bench")) });

export const courseQuery = (setups: readonly Setup[], end_s: number | null, axis: "log" | "straight" | null, narrow: boolean) =>
  queryOptions({
    queryKey: ["bench", setups, end_s, axis, narrow],
    enabled: setups.length > 0,
    retry: false,
    placeholderData: (before) => before,
    queryFn: () => answered(client.POST("/api/bench", { body: { setups: [...setups], end_s, axis, narrow } })),
  });

export const benchOfRunQuery = (planId: string, runId: string, happens: Happens) =>
  queryOptions({
    queryKey: ["bench-of-run", planId, runId, happens],
    enabled: planId !== "" && runId !== "",
    retry: false,
    queryFn: () =>
      answered(client.GET("/api/plans/{plan_id}/bench/{run_id}", { params: { path: { plan_id: planId, run_id: runId }, query: { happens } } })),
  });
