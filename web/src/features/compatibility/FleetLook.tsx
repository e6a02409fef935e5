import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { Fault, Field, TextInput } from "../../ui/form";
import { percent } from "../../ui/percent";
import { Loaded } from "../../ui/states";

/** Which machines to open first, so that it is known soonest whether enough fit. */
export function FleetLook({ kit }: { kit: string }) {
  const [n, setN] = useState("");
  const count = Number(n);
  const asked = Number.isInteger(count) && count >= 1 && count <= 1000;
  const query = useQuery({
    queryKey: keys.fleetLook(kit, count),
    queryFn: () => unwrap(api.GET("/api/kits/{key}/look", { params: { path: { key: kit }, query: { n: count } } })),
    enabled: asked,
  });
  return (
    <section aria-labelledby="fleet-look" className="mt-10 max-w-4xl">
      <h2 id="fleet-look" className="text-2xl font-bold">
        Ordering several?
      </h2>
      <div className="my-2 max-w-60">
        <Field label="How many are to be ordered" htmlFor="fleet-look-n">
          <TextInput id="fleet-look-n" inputMode="numeric" value={n} onChange={setN} />
        </Field>
      </div>
      {n.trim() && !asked && <Fault text="Say a whole number from 1 to 1000." />}
      {asked && (
        <Loaded query={query} what="Planning which machines to open">
          {(l) => (
            <>
              <p className="text-lg">
                {l.sure} are known to fit.{" "}
                {l.needed === 0
                  ? "That is enough: order them."
                  : l.machines.length === 0
                    ? `${l.needed} more are needed, and no others can fit.`
                    : l.chance === undefined
                      ? `To find ${l.needed} more, look in this order, and stop when it is settled. Too little was read for a chance:`
                      : `To find ${l.needed} more: about ${l.minutes.toFixed(0)} minutes; the chance that there are so many is ${percent(l.chance)}. Look in this order, and stop when it is settled:`}
              </p>
              {!l.whole && (
                <p className="text-dim">
                  Of some machines too little is known to follow every course: their minutes and chances are estimates.
                </p>
              )}
              <ol className="mt-2 bg-leaf">
                {l.machines.map((m, i) => (
                  <li key={m.id} className="border-b border-rule">
                    <Link
                      to={`/ask/${kit}/${m.id}`}
                      className="grid min-h-12 grid-cols-[2rem_10rem_1fr_auto] gap-x-4 px-3 py-2 hover:bg-wash"
                    >
                      <span className="text-dim">{i + 1}.</span>
                      <b>{m.name}</b>
                      <span>{m.first}</span>
                      <span className="text-dim">
                        {m.chance === undefined
                          ? `${m.readings} read, at most ${m.minutes.toFixed(0)} min`
                          : `${percent(m.chance)} by ${m.readings}, ${m.minutes.toFixed(0)} min`}
                      </span>
                    </Link>
                  </li>
                ))}
              </ol>
            </>
          )}
        </Loaded>
      )}
    </section>
  );
}
