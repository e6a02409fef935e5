import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { State } from "../../ui/badges";
import { Loaded } from "../../ui/states";

/** For which machines one build is, and which fact tells each of the others apart. */
export function ForMachines({ id }: { id: number }) {
  const [open, setOpen] = useState(false);
  const query = useQuery({
    queryKey: keys.buildMachines(id),
    enabled: open,
    queryFn: () => unwrap(api.GET("/api/builds/{id}/machines", { params: { path: { id } } })),
  });
  return (
    <details className="mt-4" onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary className="min-h-10 cursor-pointer py-1 text-xl font-bold">For which machines is it?</summary>
      {open && (
        <Loaded query={query} what="Holding it against every machine">
          {(list) => (
            <ul className="bg-leaf">
              {list.map((m) => (
                <li key={m.machineId} className="border-b border-rule px-3 py-1">
                  <Link to={`/machine/${m.machineId}/firmware`} className="font-bold underline underline-offset-4">
                    {m.machine}
                  </Link>{" "}
                  {m.apart.length > 0 ? (
                    <State tone="bad">other parts</State>
                  ) : m.fits ? (
                    <State tone="good">all that it was configured for agrees</State>
                  ) : (
                    <State tone="look">look first</State>
                  )}
                  {m.runs && <span className="text-dim"> · runs it now</span>}
                  {m.apart.map((a) => (
                    <span key={a.key} className="block">
                      {a.says}
                    </span>
                  ))}
                  {m.apart.length === 0 && m.unknown.length > 0 && (
                    <span className="block text-dim">not on record: {m.unknown.join(", ")}</span>
                  )}
                </li>
              ))}
            </ul>
          )}
        </Loaded>
      )}
    </details>
  );
}
