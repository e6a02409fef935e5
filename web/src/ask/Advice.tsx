import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, take } from "../api/client";
import { showMoney } from "../parts/money";
import { Loaded } from "../parts/states";

export function useAdvice(kit: string, machineId: number) {
  return useQuery({
    queryKey: ["advice", kit, machineId],
    queryFn: () =>
      take(api.GET("/api/kits/{key}/machines/{id}/advice", { params: { path: { key: kit, id: machineId } } })),
  });
}

/** What would make it fit, or where to look first and what to expect. */
export function Advice({ kit, machineId }: { kit: string; machineId: number }) {
  const query = useAdvice(kit, machineId);
  return (
    <Loaded query={query} what="Looking for what would change it">
      {(a) => (
        <>
          {a.remedy && (
            <section aria-labelledby="remedy" className="border-2 border-cond bg-leaf px-4 py-3">
              <h2 id="remedy" className="text-2xl font-bold">
                What would make it fit
              </h2>
              <p className="text-dim">
                The cheapest the catalogue has: price {showMoney(a.remedy.price)} and {a.remedy.minutes} minutes before
                this kit. Then this kit's verdict is: {a.remedy.then}.
              </p>
              <ol className="list-decimal pl-6">
                {a.remedy.kits.map((k) => (
                  <li key={k.kit}>
                    <Link className="font-bold underline underline-offset-4" to={`/ask/${k.kit}/${machineId}`}>
                      {k.name}
                    </Link>
                    , {k.answer}, price {showMoney(k.price)}, {k.minutes} min
                  </li>
                ))}
              </ol>
              {a.remedy.risks.map((r) => (
                <p key={r}>Risk: {r}.</p>
              ))}
              <p className="mt-2">
                <Link
                  className="inline-flex min-h-10 items-center underline underline-offset-4"
                  to={`/plan?machine=${machineId}&${[...a.remedy.kits.map((k) => k.kit), kit].map((k) => `kit=${k}`).join("&")}`}
                >
                  Judge them together
                </Link>
              </p>
            </section>
          )}
          {a.noRemedy && (
            <p className="border-l-4 border-line px-4 py-2">
              No kits of the catalogue, one or two of them, would make it fit.
            </p>
          )}
          {a.drop.length > 0 && (
            <p className="border-l-4 border-cond px-4 py-2">
              Flash: the smallest set of features to drop is <b>{a.drop.join(", ")}</b>.
            </p>
          )}
          {a.look.first && (
            <section aria-labelledby="expect" className="border-2 border-look bg-leaf px-4 py-3">
              <h2 id="expect" className="text-2xl font-bold">
                Begin with: {a.look.title}
              </h2>
              <p>
                Expected {a.look.minutes.toFixed(0)} minutes until it is settled, of {a.look.all} for all of them;
                chance that it fits about {Math.round(a.look.chance * 100)} %, by what was read in the same batch.
              </p>
              {a.look.sequence.length > 1 && (
                <p className="text-dim">Then, as things are likeliest: {a.look.sequence.slice(1).join(" → ")}</p>
              )}
              {!a.look.exact && (
                <p className="text-dim">Too many courses to try all: what settles most for its minutes.</p>
              )}
            </section>
          )}
        </>
      )}
    </Loaded>
  );
}

/** What else follows from the work, and which parts it sets free. */
export function ThenConsequences({ kit, machineId }: { kit: string; machineId: number }) {
  const query = useAdvice(kit, machineId);
  if (!query.data) return null;
  const { consequences, spares } = query.data;
  return (
    <>
      {consequences.length > 0 && (
        <div>
          <h3 className="font-bold">What follows</h3>
          <ul>
            {consequences.map((c) => (
              <li key={c.what + c.says} className="border-b border-rule py-1">
                <b>{c.what}</b>: {c.says}
                {c.arithmetic && <span className="block font-mono text-sm text-dim">{c.arithmetic}</span>}
              </li>
            ))}
          </ul>
        </div>
      )}
      {spares.length > 0 && (
        <div>
          <h3 className="font-bold">Parts set free</h3>
          <ul>
            {spares.map((s) => (
              <li key={s.slot} className="border-b border-rule py-1">
                {s.label}: <b>{s.model}</b>
                <span className="block text-sm text-dim">
                  {s.machines.length > 0 ? `A spare for ${s.machines.join(", ")}` : "No other machine carries the same"}
                </span>
              </li>
            ))}
          </ul>
        </div>
      )}
    </>
  );
}
