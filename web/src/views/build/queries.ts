// What is bought and what it is offered for.
import { queryOptions } from "@tanstack/react-query";
import { answered, client } from "../../api/client";

export const shoppingQuery = (planId: string, revision: number) =>
  queryOptions({
    queryKey: ["shopping", planId, revision],
    queryFn: () => answered(client.GET("/api/plans/{plan_id}/shopping", { params: { path: { plan_id: planId } } })),
    placeholderData: (before) => before,
  });

export const wiringQuery = (planId: string, revision: number) =>
  queryOptions({
    queryKey: ["wiring", planId, revision],
    queryFn: () => answered(client.GET("/api/plans/{plan_id}/wiring", { params: { path: { plan_id: planId } } })),
    placeholderData: (before) => before,
  });

export const stockQuery = queryOptions({ queryKey: ["stock"], queryFn: () => answered(client.GET("/api/stock")) });
export const termsQuery = queryOptions({ queryKey: ["terms"], queryFn: () => answered(client.GET("/api/terms")) });

/** The whole job, or what is beyond a revision that is there already. */
export const quoteQuery = (planId: string, revision: number, since: number | null) =>
  queryOptions({
    queryKey: ["quote", planId, revision, since],
    queryFn: () => answered(client.GET("/api/plans/{plan_id}/quote", { params: { path: { plan_id: planId }, query: { since } } })),
    placeholderData: (before) => before,
  });

export const quotesQuery = (planId: string) =>
  queryOptions({
    queryKey: ["quotes", planId],
    queryFn: () => answered(client.GET("/api/plans/{plan_id}/quotes", { params: { path: { plan_id: planId } } })),
  });
