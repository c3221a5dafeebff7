// Terms of the trade and codes of the checks.
import { queryOptions } from "@tanstack/react-query";
import { answered, client } from "./client";

export const wordsQuery = queryOptions({ queryKey: ["words"], staleTime: Infinity, queryFn: () => answered(client.GET("/api/words")) });

export const wordQuery = (name: string) =>
  queryOptions({
    queryKey: ["word", name],
    staleTime: Infinity,
    retry: false,
    queryFn: () => answered(client.GET("/api/words/{name}", { params: { path: { name } } })),
  });
