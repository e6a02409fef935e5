import { useQuery } from "@tanstack/react-query";
import { useId } from "react";
import { Link } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { answerWords } from "../../ui/badges";
import { showMoney } from "../../ui/money";
import { percent } from "../../ui/percent";
import { Loaded } from "../../ui/states";

export function useAdvice(kit: string, machineId: number) {
  return useQuery({
    queryKey: keys.advice(kit, machineId),
    queryFn: () =>
      unwrap(api.GET("/api/kits/{key}/machines/{id}/advice", { params: { path: { key: kit, id: machineId } } })),
  });
}

/** What would make it fit, or where to look first and what to expect. */
export function Advice({ kit, machineId }: { kit: string; machineId: number }) {
  const query = useAdvice(kit, machineId);
  return (
    <Loaded query={query} what="Looking for what would change it">
      {(a) => (
        <>
          {a.remedies?.sure && (
            <RemedyView
              title="What would make it fit"
              says="The cheapest that would, of the whole catalogue"
              remedy={a.remedies.sure}
              kit={kit}
              machineId={machineId}
            />
          )}
          {a.remedies?.perhaps && (
            <RemedyView
              title={a.remedies.sure ? "Cheaper, if looking bears it out" : "What may make it fit"}
              says="Something of it is to be looked at first"
              remedy={a.remedies.perhaps}
              kit={kit}
              machineId={machineId}
            />
          )}
          {a.remedies && !a.remedies.sure && !a.remedies.perhaps && (
            <p className="border-l-4 border-line px-4 py-2">
              {a.remedies.whole
                ? "No set of up to four further kits of the catalogue would make it fit."
                : `None of the ${a.remedies.tried} cheapest sets of kits would make it fit. The search was broken off there: dearer ones were not tried.`}
            </p>
          )}
          {a.memory && (
            <section aria-label="Flash" className="border-l-4 border-cond px-4 py-2">
              <p>
                Flash is short by {a.memory.short} KiB.{" "}
                {a.memory.drop.length > 0 ? (
                  <>
                    The smallest set of features to drop is <b>{a.memory.drop.join(", ")}</b>.
                  </>
                ) : (
                  "No features on record of this build would free enough."
                )}
              </p>
              {a.memory.bootloader > 0 && (
                <p className="text-dim">
                  Leaving the bootloader out frees {a.memory.bootloader} KiB
                  {a.memory.enough ? "" : ", which alone is not enough"}. Keep it unless every byte is needed: without
                  it every update needs the in-circuit programmer.
                </p>
              )}
            </section>
          )}
          {a.look.first && (
            <section aria-labelledby="expect" className="border-2 border-look bg-leaf px-4 py-3">
              <h2 id="expect" className="text-2xl font-bold">
                Begin with: {a.look.title}
              </h2>
              <p>
                {a.look.chance !== undefined
                  ? `About ${a.look.minutes.toFixed(0)} min to an answer, ${a.look.all} at most; chance that it fits ${percent(a.look.chance)}, by ${a.look.readings} readings in the same batch.`
                  : `At most ${a.look.all} min to an answer.${fewReadings(a.look.readings)}`}
              </p>
              {a.look.sequence.length > 1 && (
                <p className="text-dim">Most likely next: {a.look.sequence.slice(1).join(" → ")}</p>
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

/** How many readings there are where they are too few for a chance. */
function fewReadings(n: number): string {
  if (n === 0) return "";
  return ` Read on ${n} ${n === 1 ? "machine" : "machines"} of the same batch: too few for a chance.`;
}

/** What speaks against the work, with its numbers. */
export function Against({ list }: { list: readonly string[] }) {
  if (list.length === 0) return null;
  return (
    <section aria-labelledby="against" className="border-l-4 border-look bg-look-wash px-4 py-2">
      <h2 id="against" className="text-xl font-bold">
        Before you begin
      </h2>
      {list.map((a) => (
        <p key={a}>{a}</p>
      ))}
    </section>
  );
}

function RemedyView({
  title,
  says,
  remedy: r,
  kit,
  machineId,
}: {
  title: string;
  says: string;
  remedy: Schemas["Remedy"];
  kit: string;
  machineId: number;
}) {
  const id = useId();
  return (
    <section aria-labelledby={id} className="border-2 border-cond bg-leaf px-4 py-3">
      <h2 id={id} className="text-2xl font-bold">
        {title}
      </h2>
      <p className="text-dim">
        {says}: price {showMoney(r.price)} and {r.minutes} minutes before this kit. Then this kit's verdict is:{" "}
        {answerWords(r.then, r.lean)}.
      </p>
      <ol className="list-decimal pl-6">
        {r.kits.map((k) => (
          <li key={k.kit}>
            <Link className="font-bold underline underline-offset-4" to={`/ask/${k.kit}/${machineId}`}>
              {k.name}
            </Link>
            , {k.answer}, price {showMoney(k.price)}, {k.minutes} min
            {k.further.map((f) => `, with ${f.title}`)}
          </li>
        ))}
      </ol>
      {r.risks.map((x) => (
        <p key={x}>Risk: {x}.</p>
      ))}
      <p className="mt-2">
        <Link
          className="inline-flex min-h-10 items-center underline underline-offset-4"
          to={`/plan?machine=${machineId}&${[...r.kits.map((k) => k.kit), kit].map((k) => `kit=${k}`).join("&")}`}
        >
          Judge them together
        </Link>
      </p>
    </section>
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
                {s.homes.length > 0 && (
                  <span className="block text-sm">
                    Could go into{" "}
                    {s.homes.map((h, i) => (
                      <span key={`${h.machineId}${h.kit}`}>
                        {i > 0 && ", "}
                        <Link className="underline underline-offset-4" to={`/ask/${h.kit}/${h.machineId}`}>
                          {h.machine}
                        </Link>
                        {h.answer === "fits if" && " (with an additional change)"}
                      </span>
                    ))}
                  </span>
                )}
              </li>
            ))}
          </ul>
        </div>
      )}
    </>
  );
}
