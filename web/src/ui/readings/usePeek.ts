import { useQuery } from "@tanstack/react-query";
import { useDeferredValue } from "react";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";

/** What an answer says while it is typed, and whether it differs from what stands; nothing of a part on the shelf. */
export function usePeek(machineId: number | undefined, factKey: string, text: string) {
  const typed = useDeferredValue(text.trim());
  const query = useQuery({
    queryKey: keys.peek(machineId, factKey, typed),
    queryFn: () =>
      unwrap(
        api.GET("/api/machines/{id}/peek", {
          params: { path: { id: machineId ?? 0 }, query: { key: factKey, text: typed } },
        }),
      ),
    enabled: machineId !== undefined && typed !== "",
    placeholderData: (before) => before,
  });
  return typed ? query.data : undefined;
}
