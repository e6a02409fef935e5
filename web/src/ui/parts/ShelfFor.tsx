import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { VerdictMark } from "../badges";
import { Loaded } from "../states";

/** What could come to a position from the shelf, and what breaks when its part comes out. */
export function ShelfFor({ id, position }: { id: number; position: string }) {
  const query = useQuery({
    queryKey: keys.partsFor(id, position),
    queryFn: () =>
      unwrap(api.GET("/api/machines/{id}/positions/{position}/parts", { params: { path: { id, position } } })),
  });
  return (
    <Loaded query={query} what="Judging what lies on the shelf">
      {({ rows, without }) => (
        <>
          <section aria-labelledby="shelf-for">
            <h3 id="shelf-for" className="text-lg font-bold">
              From the shelf
            </h3>
            {rows.length === 0 && <p className="text-dim">No part of its kind lies on the shelf.</p>}
            <ul>
              {rows.map((r) => (
                <li key={r.part} className="border-b border-rule py-2">
                  <span className="flex flex-wrap items-center justify-between gap-x-4">
                    <Link className="font-bold underline underline-offset-4" to={`/part/${r.part}`}>
                      {r.model || "Unnamed"} {r.tag}
                    </Link>
                    <VerdictMark answer={r.verdict.answer} lean={r.verdict.lean || undefined} />
                  </span>
                  <PlacedWhy verdict={r.verdict} />
                </li>
              ))}
            </ul>
          </section>
          <section aria-labelledby="if-out">
            <h3 id="if-out" className="text-lg font-bold">
              If its part comes out
            </h3>
            {without.breaks.length + without.may.length === 0 && (
              <p className="text-dim">Nothing else on record needs it.</p>
            )}
            <ul>
              {without.breaks.map((o) => (
                <li key={`${o.at}${o.label}`} className="text-bad">
                  ✖ {o.at}: {o.label}
                  {o.who && `, which ${o.who} needs`}
                </li>
              ))}
              {without.may.map((o) => (
                <li key={`${o.at}${o.label}`} className="text-look">
                  ▲ It may be missed: {o.at}: {o.label}
                </li>
              ))}
            </ul>
          </section>
        </>
      )}
    </Loaded>
  );
}

/** Why a loose part fits a place or not, in a line or two. */
export function PlacedWhy({ verdict: v }: { verdict: Schemas["Verdict"] }) {
  return (
    <>
      <span className="block text-sm">{v.headline}</span>
      {v.remarks.map((r) => (
        <span key={r} className="block text-sm text-dim">
          {r}
        </span>
      ))}
      {v.look[0] && (
        <span className="block text-sm text-dim">
          Look: {v.look.map((l) => `${l.inspection.title}, ${l.inspection.minutes} min`).join("; ")}
        </span>
      )}
    </>
  );
}
