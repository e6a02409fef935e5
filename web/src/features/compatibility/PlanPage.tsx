import { useQuery } from "@tanstack/react-query";
import { Link, useSearchParams } from "react-router";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { VerdictMark } from "../../ui/badges";
import { ChooseKits } from "../../ui/ChooseKits";
import { Button, Field, Select } from "../../ui/form";
import { LinkButton } from "../../ui/LinkButton";
import { showMoney } from "../../ui/money";
import { Page } from "../../ui/Page";
import { useMayWork } from "../../ui/session";
import { Empty, Loaded } from "../../ui/states";
import { Against } from "./Advice";
import { OpenWork } from "./OpenWork";
import { OrderLines } from "./OrderLines";

/** Several kits on one machine: the order with the least rework, or what cannot go together. */
export default function PlanPage() {
  const [asked, setAsked] = useSearchParams();
  const mayWork = useMayWork();
  const machine = Number(asked.get("machine") ?? 0);
  const chosen = asked.getAll("kit");
  const fleet = useQuery({ queryKey: keys.fleet(), queryFn: () => unwrap(api.GET("/api/machines")) });
  const kits = useQuery({ queryKey: keys.kits(), queryFn: () => unwrap(api.GET("/api/kits")) });
  const query = useQuery({
    queryKey: keys.plan(machine, chosen),
    queryFn: () => unwrap(api.POST("/api/plans", { body: { machineId: machine, kits: chosen } })),
    enabled: machine > 0 && chosen.length > 0,
    retry: false,
  });
  function set(m: number, ks: string[]) {
    const q = new URLSearchParams();
    if (m) q.set("machine", String(m));
    for (const k of ks) q.append("kit", k);
    setAsked(q, { replace: true });
  }
  return (
    <Page
      title="Plan several"
      lead="Kits on one machine, judged together: an earlier one can make a later one fit, or take what it needs."
    >
      <div className="no-print mb-6 grid gap-4 md:grid-cols-2">
        <Field label="Machine" htmlFor="plan-machine">
          <Select
            id="plan-machine"
            value={machine ? String(machine) : ""}
            onChange={(v) => set(Number(v), chosen)}
            empty="Choose a machine"
            options={(fleet.data?.machines ?? []).map((m) => [String(m.id), `${m.name}, ${m.bay}`] as const)}
          />
        </Field>
        <ChooseKits
          id="plan-kit"
          label="Add a kit"
          kits={kits.data ?? []}
          chosen={chosen}
          onChange={(keys) => set(machine, keys)}
        />
      </div>
      {machine > 0 && chosen.length > 0 ? (
        <Loaded query={query} what="Trying every order">
          {(p) => (
            <>
              <div className="mb-5" data-plan={p.answer}>
                <VerdictMark answer={p.answer} lean={p.lean || undefined} large />
                {p.conflict.length > 0 && (
                  <p className="mt-1 max-w-3xl text-xl">
                    {p.conflict.length > 1 ? "These cannot go together: " : "This one cannot be fitted: "}
                    <b>{p.conflict.join("; ")}</b>. {p.why}
                  </p>
                )}
                {p.without.length > 0 && (
                  <ul className="mt-3 max-w-3xl space-y-2" aria-label="What can be done instead">
                    {p.without.map((r) => (
                      <li key={r.kit} className="border-2 border-line bg-leaf px-4 py-3">
                        <div className="flex flex-wrap items-center justify-between gap-3">
                          <Button
                            onClick={() =>
                              set(
                                machine,
                                chosen.filter((c) => c !== r.kit),
                              )
                            }
                          >
                            Plan without {r.name}
                          </Button>
                          <VerdictMark answer={r.answer} />
                        </div>
                        <p className="mt-1">
                          {r.answer === "does not fit"
                            ? `${r.order.join(", ")}: of these, too, not all can be fitted.`
                            : `${r.order.join(" → ")}. Price ${showMoney(r.price)}, ${(r.minutes / 60).toFixed(1)} hours.`}
                        </p>
                      </li>
                    ))}
                  </ul>
                )}
                {!p.whole && (
                  <p className="mt-1 max-w-3xl border-l-4 border-look px-3">
                    Not every order was tried: there are too many. A better one may exist.
                  </p>
                )}
                {p.conflict.length === 0 && (
                  <p className="mt-1 max-w-3xl text-xl">
                    In this order the least is done twice: {p.repeated}{" "}
                    {p.repeated === 1 ? "calibration" : "calibrations"} repeated, the cover off {p.openings}{" "}
                    {p.openings === 1 ? "time" : "times"}, {p.builds} {p.builds === 1 ? "build" : "builds"} to flash.
                  </p>
                )}
              </div>
              {p.conflict.length === 0 && p.lookNow.length > 0 && (
                <section
                  aria-label="Look first"
                  className="mb-5 flex max-w-3xl flex-wrap items-center justify-between gap-4 border-l-4 border-look bg-leaf px-4 py-3"
                >
                  <p className="min-w-0 flex-1 basis-80">
                    Look first: <b>{p.lookNow.join(", ")}</b>. Nothing of the plan is bought or begun before that is
                    settled.
                  </p>
                  <LinkButton to={`/identify?at=${machine}`}>Inspect</LinkButton>
                </section>
              )}
              {p.conflict.length === 0 && (
                <div className="grid gap-8 xl:grid-cols-[minmax(0,3fr)_minmax(20rem,2fr)]">
                  <div>
                    <ol className="space-y-3">
                      {p.steps.map((s, i) => (
                        <li key={s.kit} className="border-2 border-line bg-leaf px-4 py-3">
                          <div className="flex flex-wrap items-baseline justify-between gap-x-4">
                            <h2 className="text-xl font-bold">
                              {i + 1}.{" "}
                              <Link className="underline underline-offset-4" to={`/ask/${s.kit}/${machine}`}>
                                {s.name}
                              </Link>
                            </h2>
                            <VerdictMark answer={s.answer} lean={s.lean || undefined} />
                          </div>
                          {s.together && (
                            <p className="border-l-4 border-cond px-3">
                              Together with the one before: the machine is not run in between.
                            </p>
                          )}
                          {s.waits && (
                            <p className="border-l-4 border-cond px-3">
                              Not met until the next is in, so the machine is not run before: {s.waits}
                            </p>
                          )}
                          {s.answer !== "fits if" && <p>{s.headline}</p>}
                          {s.further.map((f) => (
                            <p key={f.key}>
                              With: {f.title}, price {f.price}, {f.minutes} min
                            </p>
                          ))}
                          <p className="text-dim">
                            {s.minutes} min, price {showMoney(s.price)}
                            {s.opens && ", cover off"}.{" "}
                            {s.calibrations.length > 0 && `Then: ${s.calibrations.join(" → ")}`}
                          </p>
                          <p className="mt-2">
                            <LinkButton to={`/ask/${s.kit}/${machine}`}>Why</LinkButton>
                          </p>
                        </li>
                      ))}
                    </ol>
                    <p className="mt-3 text-dim">
                      Each kit is a work order of its own; the next is judged anew when the one before it is finished.
                    </p>
                  </div>
                  <div className="space-y-6">
                    <Against list={p.against} />
                    {mayWork && p.lookNow.length === 0 && (
                      <OpenWork
                        machine={p.machine}
                        openOrder={p.openOrder}
                        reasons={p.reasons}
                        button={p.steps.length > 1 ? `Open the ${p.steps.length} work orders` : "Open the work order"}
                        open={(reason) =>
                          unwrap(api.POST("/api/work/plan", { body: { machineId: machine, kits: chosen, reason } }))
                        }
                      />
                    )}
                    <section aria-labelledby="buy">
                      <h2 id="buy" className="mb-2 text-2xl font-bold">
                        {p.lookNow.length > 0 ? "What to buy once that is settled" : "What to buy"}
                      </h2>
                      <OrderLines lines={p.order} />
                      <p className="mt-2 text-lg">
                        Together <b>{showMoney(p.price)}</b>, {(p.minutes / 60).toFixed(1)} hours.
                      </p>
                    </section>
                  </div>
                </div>
              )}
            </>
          )}
        </Loaded>
      ) : (
        <Empty title="Choose a machine and at least one kit." />
      )}
    </Page>
  );
}
