import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { ErrorNotice } from "../../ui/states";

/** Known files that print on the machine of an open order now, and not once the work is done. */
export function StaleFiles({ order }: { order: number }) {
  const query = useQuery({
    queryKey: keys.printFiles(0, "stale", order),
    queryFn: () => unwrap(api.GET("/api/work/{id}/stale-files", { params: { path: { id: order } } })),
  });
  if (query.isPending) return <p className="my-3 text-dim">Checking the known files …</p>;
  if (query.isError) return <ErrorNotice error={query.error} again={query.refetch} />;
  if (query.data.length === 0) return null;
  return (
    <section aria-label="Files that become stale" className="my-3 border-2 border-look bg-look-wash px-4 py-3">
      <h3 className="text-xl font-bold">Known files that no longer print here afterwards</h3>
      <ul>
        {query.data.map((f) => (
          <li key={f.id}>
            <Link to={`/file/${f.id}`} className="font-bold underline underline-offset-4">
              {f.name}
            </Link>
            : {f.why}
          </li>
        ))}
      </ul>
    </section>
  );
}
