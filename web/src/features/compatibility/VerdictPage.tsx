import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { State, VerdictMark } from "../../ui/badges";
import { Page } from "../../ui/Page";
import { useMayWork } from "../../ui/session";
import { Loaded } from "../../ui/states";
import { Advice, Against, useAdvice } from "./Advice";
import { Consequences, type Sheet } from "./Consequences";
import { HeadsOf } from "./HeadsOf";
import { LookFirst } from "./LookFirst";
import { OpenWork } from "./OpenWork";
import { Reasons } from "./Reasons";

/** One kit on one machine: the verdict, why, what would settle it, what follows. */
export default function VerdictPage() {
  const { kit = "", id } = useParams();
  const query = useQuery({
    queryKey: keys.verdict(kit, Number(id)),
    queryFn: () => unwrap(api.GET("/api/kits/{key}/machines/{id}", { params: { path: { key: kit, id: Number(id) } } })),
  });
  return (
    <Loaded query={query} what="Judging the kit on this machine">
      {(sheet) => <VerdictView sheet={sheet} />}
    </Loaded>
  );
}

function VerdictView({ sheet }: { sheet: Sheet }) {
  const mayWork = useMayWork();
  const advice = useAdvice(sheet.kit.key, sheet.machineId);
  const v = sheet.verdict;
  const ready = v.answer === "fits" || v.answer === "fits if";
  return (
    <Page
      title={`${sheet.kit.name} on ${sheet.machine}`}
      lead={
        <>
          {sheet.bay} ·{" "}
          <Link className="underline underline-offset-4" to={`/machine/${sheet.machineId}`}>
            the machine's sheet
          </Link>{" "}
          ·{" "}
          <Link className="underline underline-offset-4" to={`/ask/${sheet.kit.key}`}>
            all machines
          </Link>{" "}
          ·{" "}
          <Link className="underline underline-offset-4" to={`/plan?machine=${sheet.machineId}&kit=${sheet.kit.key}`}>
            plan it with others
          </Link>
        </>
      }
    >
      {!sheet.protection.proven && (
        <p className="mb-5 border-l-4 border-bad bg-bad-wash px-4 py-2">
          <State tone="bad">Protection not proven</State>: {sheet.protection.why}. That comes before every upgrade;
          until then never unattended.{" "}
          <Link
            className="inline-flex min-h-10 items-center font-semibold underline underline-offset-4"
            to={`/machine/${sheet.machineId}`}
          >
            Record a test on its sheet
          </Link>
        </p>
      )}
      <div className="mb-6" aria-live="polite" data-verdict={v.answer} data-lean={v.lean}>
        <VerdictMark answer={v.answer} lean={v.lean || undefined} large />
        <p className="mt-1 max-w-3xl text-xl">{v.headline}</p>
        <HeadsOf sheet={sheet} />
        {sheet.claim && <p className="mt-1 max-w-3xl text-dim">{sheet.claim}</p>}
        {v.saves && (
          <p className="mt-1">It fits either way; looking settles whether the additional changes are needed.</p>
        )}
        {v.remarks.map((r) => (
          <p key={r} className="mt-2 max-w-3xl border-l-4 border-look px-3">
            {r}
          </p>
        ))}
      </div>
      <div className="grid gap-8 xl:grid-cols-[minmax(0,3fr)_minmax(20rem,2fr)]">
        <div className="space-y-8">
          <Advice kit={sheet.kit.key} machineId={sheet.machineId} />
          {v.look.length > 0 && <LookFirst sheet={sheet} mayWork={mayWork} />}
          {v.answer === "look first" && v.decide.length > 0 && (
            <section aria-labelledby="decide">
              <h2 id="decide" className="text-2xl font-bold">
                To be decided
              </h2>
              <ul className="list-disc pl-6">
                {v.decide.map((d) => (
                  <li key={d}>{d}.</li>
                ))}
              </ul>
            </section>
          )}
          <section aria-labelledby="reasons">
            <h2 id="reasons" className="mb-2 text-2xl font-bold">
              Why
            </h2>
            <Reasons outcome={v.reasons} machineId={sheet.machineId} />
          </section>
          {ready && <Consequences sheet={sheet} />}
        </div>
        <div className="space-y-8">
          {v.further.length > 0 && (
            <section aria-labelledby="further">
              <h2 id="further" className="mb-2 text-2xl font-bold">
                {ready ? "With these additional changes" : "It may also need"}
              </h2>
              <ul className="bg-leaf">
                {v.further.map((f) => (
                  <li key={f.key} className="border-b border-rule px-3 py-2">
                    <b>{f.title}</b>{" "}
                    <span className="text-dim">
                      price {f.price}, {f.minutes} min
                    </span>
                  </li>
                ))}
              </ul>
            </section>
          )}
          {v.delivery.length > 0 && (
            <section aria-labelledby="delivery">
              <h2 id="delivery" className="mb-1 text-2xl font-bold">
                To check when it is delivered
              </h2>
              <p className="text-dim">
                It is judged as its parts are specified. Makers change parts without saying so.
              </p>
              <ul className="bg-leaf">
                {v.delivery.map((d) => (
                  <li key={d} className="border-b border-rule px-3 py-1">
                    {d}
                  </li>
                ))}
              </ul>
            </section>
          )}
          {ready && <Against list={advice.data?.against ?? []} />}
          {ready && mayWork && (
            <OpenWork
              machine={sheet.machine}
              openOrder={sheet.openOrder}
              reasons={sheet.reasons}
              button="Open the work order"
              open={(reason) =>
                unwrap(api.POST("/api/work", { body: { machineId: sheet.machineId, kit: sheet.kit.key, reason } }))
              }
            />
          )}
        </div>
      </div>
    </Page>
  );
}
