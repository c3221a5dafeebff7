// What the shelf asks for: every job's card, what is due, how the file is kept. Apart from the queries of one plan, so that
// the first script carries no more than the first page needs.
import { queryOptions } from "@tanstack/react-query";
import { answered, client } from "./client";

export const shelfQuery = (archived: boolean) =>
  queryOptions({
    queryKey: ["shelf", archived],
    queryFn: () => answered(client.GET("/api/plans", { params: { query: { archived } } })),
    // Cards that are made anew behind are looked for until they are there.
    refetchInterval: (query) => (query.state.data?.some((card) => card.behind) ? 2000 : false),
  });

export const keepingQuery = queryOptions({ queryKey: ["keeping"], queryFn: () => answered(client.GET("/api/keeping")) });

export const dueQuery = queryOptions({ queryKey: ["due"], queryFn: () => answered(client.GET("/api/due")) });
