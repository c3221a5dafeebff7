// Queries of the Power view. The revision is part of every key: figures belong to the plan as it stood.
import { queryOptions } from "@tanstack/react-query";
import { answered, client, ProblemError, type Schemas } from "../../api/client";

export type Power = Schemas["PowerReport"];
export type Days = Schemas["Days"];
export type Wishes = Required<Schemas["Wishes"]>;
export type VariantName = Schemas["OptionsRequest"]["variants"][number];

export const powerQuery = (planId: string, revision: number) =>
  queryOptions({
    queryKey: ["power", planId, revision],
    queryFn: () => answered(client.GET("/api/plans/{plan_id}/power", { params: { path: { plan_id: planId } } })),
    placeholderData: (before) => before,
  });

export const weatherQuery = queryOptions({
  queryKey: ["weather"],
  queryFn: () => answered(client.GET("/api/weather")),
});

export const pricesQuery = queryOptions({
  queryKey: ["prices"],
  queryFn: () => answered(client.GET("/api/prices")),
});

export function lines(error: unknown): string[] {
  if (error instanceof ProblemError && (error.problem.errors ?? []).length > 0)
    return (error.problem.errors ?? []).map((one) => `${one.pointer}: ${one.detail}`);
  return [error instanceof Error ? error.message : String(error)];
}
