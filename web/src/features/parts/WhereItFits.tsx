import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { VerdictMark } from "../../ui/badges";
import { Button } from "../../ui/form";
import { PlacedWhy } from "../../ui/parts/ShelfFor";
import { Loaded } from "../../ui/states";

/** The part judged at every position of the fleet that holds its kind. */
export function WhereItFits({ id }: { id: number }) {
  const [judged, setJudged] = useState(60);
  const query = useQuery({
    queryKey: keys.partFits(id, judged),
    queryFn: () => unwrap(api.GET("/api/parts/{id}/fits", { params: { path: { id }, query: { limit: judged } } })),
    placeholderData: (before) => before,
  });
  return (
    <section aria-labelledby="where-it-fits" className="mt-8">
      <h2 id="where-it-fits" className="mb-2 text-2xl font-bold">
        Where it fits
      </h2>
      <Loaded query={query} what="Judging it on every machine">
        {({ rows, machines }) => (
          <>
            {rows.length === 0 && <p className="text-dim">No other position holds parts of its kind.</p>}
            <ul className="bg-leaf">
              {rows.map((r) => (
                <li key={`${r.machineId}${r.slot}`} className="border-b border-rule px-3 py-2">
                  <span className="flex flex-wrap items-center justify-between gap-x-4">
                    <Link
                      to={`/machine/${r.machineId}`}
                      className="inline-flex min-h-10 items-center font-bold underline underline-offset-4 compact:min-h-0"
                    >
                      {r.machine}, {r.position}
                    </Link>
                    <VerdictMark answer={r.verdict.answer} lean={r.verdict.lean || undefined} />
                  </span>
                  <PlacedWhy verdict={r.verdict} />
                </li>
              ))}
            </ul>
            {machines > judged && judged < 500 && (
              <Button className="mt-3" onClick={() => setJudged(Math.min(500, judged * 4))}>
                Judge it on further machines: {judged} of {machines} so far
              </Button>
            )}
          </>
        )}
      </Loaded>
    </section>
  );
}
