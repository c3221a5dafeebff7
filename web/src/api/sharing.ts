// Who may talk to the program, and what this browser may do here.
import { queryOptions, useQuery } from "@tanstack/react-query";
import { answered, client } from "./client";

export const sharingQuery = queryOptions({
  queryKey: ["sharing"],
  queryFn: () => answered(client.GET("/api/sharing")),
  staleTime: 60_000,
});

// Whether this browser was given a link to look at one job; until that is known it may work, and the program says no.
export function useReader(): boolean {
  return useQuery(sharingQuery).data?.role === "reader";
}
