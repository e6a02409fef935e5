import { useQuery } from "@tanstack/react-query";
import { useSearchParams } from "react-router";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { ChooseKits } from "../../ui/ChooseKits";
import { Field, Select } from "../../ui/form";
import { LinkButton } from "../../ui/LinkButton";
import { showMoney } from "../../ui/money";
import { Page } from "../../ui/Page";
import { useMayWork } from "../../ui/session";
import { Empty, Loaded } from "../../ui/states";
import { Against } from "./Advice";
import { OpenWork } from "./OpenWork";
import { OrderLines } from "./OrderLines";
import { PlanSteps } from "./PlanSteps";
import { PlanSummary } from "./PlanSummary";

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
              <PlanSummary
                plan={p}
                onWithout={(kit) =>
                  set(
                    machine,
                    chosen.filter((c) => c !== kit),
                  )
                }
              />
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
                  <PlanSteps steps={p.steps} machine={machine} />
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
