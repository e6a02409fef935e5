import { useQuery } from "@tanstack/react-query";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";

/** What needs are written with: operators with their number of values, and budgets. */
export function useKitWords() {
  return useQuery({
    queryKey: keys.kitWords(),
    queryFn: () => unwrap(api.GET("/api/kit-words")),
    staleTime: Number.POSITIVE_INFINITY,
  }).data;
}
