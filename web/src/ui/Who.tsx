import { useQuery } from "@tanstack/react-query";
import { api, unwrap } from "../api/client";
import { keys } from "../api/keys";

/** A name on record. One that is no account, as imported data has them, is as it was written, and marked so. */
export function Who({ name, words = false }: { name: string; words?: boolean }) {
  const query = useQuery({
    queryKey: keys.accountNames(),
    queryFn: () => unwrap(api.GET("/api/names")),
    staleTime: 60_000,
  });
  if (!query.data || query.data.includes(name)) return name;
  return (
    <span title="No account here: the name is as it was written">
      <i>{name}</i>
      {words ? " (no account here)" : <span className="sr-only"> (no account here)</span>}
    </span>
  );
}
