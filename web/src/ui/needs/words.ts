import { useQuery } from "@tanstack/react-query";
import { api, unwrap } from "../../api/client";

/** What needs are written with: operators with their number of values, and budgets. */
export function useKitWords() {
  return useQuery({
    queryKey: ["kit-words"],
    queryFn: () => unwrap(api.GET("/api/kit-words")),
    staleTime: Number.POSITIVE_INFINITY,
  }).data;
}
