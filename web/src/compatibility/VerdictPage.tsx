import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { api, type Schemas, unwrap } from "../api/client";
import { useMayWork } from "../app/session";
import { ReadingForm } from "../machine/ReadingForm";
import { State, VerdictMark } from "../ui/badges";
import { Button } from "../ui/form";
import { showMoney } from "../ui/money";
import { Page } from "../ui/Page";
import { Loaded } from "../ui/states";
import { Advice, Against, ThenConsequences, useAdvice } from "./Advice";
import { OpenWork } from "./OpenWork";
import { Reasons } from "./Reasons";

type Sheet = Schemas["VerdictSheet"];

/** One kit on one machine: the verdict, why, what would settle it, what follows. */
export default function VerdictPage() {
  const { kit = "", id } = useParams();
  const query = useQuery({
    queryKey: ["verdict", kit, Number(id)],
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

function LookFirst({ sheet, mayWork }: { sheet: Sheet; mayWork: boolean }) {
  const v = sheet.verdict;
  const facts = new Map(sheet.open.map((f) => [f.key, f]));
  const advice = useAdvice(sheet.kit.key, sheet.machineId);
  const course = advice.data?.look.keys ?? [];
  const place = (key: string) => (course.includes(key) ? course.indexOf(key) : course.length);
  const look = [...v.look].sort((a, b) => place(a.inspection.key) - place(b.inspection.key));
  return (
    <section aria-labelledby="look">
      <h2 id="look" className="text-2xl font-bold">
        Look first
      </h2>
      <p className="mb-2 text-dim">Quickest course first. Stop as soon as the verdict is settled.</p>
      <ol className="space-y-3">
        {look.map((l, i) => (
          <li key={l.inspection.key} className="border-2 border-line bg-leaf px-4 py-3">
            <h3 className="flex flex-wrap justify-between gap-x-4 text-xl font-bold">
              <span>
                {i + 1}. {l.inspection.title}
              </span>
              <span>{l.inspection.minutes} min</span>
            </h3>
            {l.inspection.risk && <p className="text-look">Risk: {l.inspection.risk}.</p>}
            <ul>
              {l.keys.map((k) => {
                const fact = facts.get(k);
                return fact ? (
                  <OpenFact
                    key={k}
                    inspection={l.inspection.key}
                    fact={fact}
                    machineId={sheet.machineId}
                    mayWork={mayWork}
                  />
                ) : null;
              })}
            </ul>
          </li>
        ))}
      </ol>
    </section>
  );
}

function OpenFact({
  fact,
  inspection,
  machineId,
  mayWork,
}: {
  fact: Schemas["FactSheet"];
  inspection: string;
  machineId: number;
  mayWork: boolean;
}) {
  const [open, setOpen] = useState(false);
  return (
    <li className="border-t border-rule py-2">
      <div className="flex flex-wrap items-center justify-between gap-x-4">
        <span>
          {fact.label}{" "}
          <span className="text-dim">
            {fact.grade === "unknown"
              ? "unknown"
              : fact.conflict
                ? `readings differ: ${fact.readings
                    .filter((r) => r.inConflict)
                    .map((r) => r.value)
                    .join(" / ")}`
                : `${fact.value}, only ${fact.grade}`}
          </span>
        </span>
        {mayWork &&
          (fact.conflict ? (
            <Link
              className="inline-flex min-h-11 items-center border-2 border-line px-4 font-semibold hover:border-accent"
              to={`/machine/${machineId}?fact=${fact.key}`}
            >
              Settle it on the sheet
            </Link>
          ) : (
            <Button aria-expanded={open} onClick={() => setOpen(!open)}>
              {open ? "Close" : "Record a reading"}
            </Button>
          ))}
      </div>
      {open && (
        <div className="mt-2 border-l-4 border-accent pl-4">
          <ReadingForm machineId={machineId} fact={fact} inspection={inspection} />
        </div>
      )}
    </li>
  );
}

function Consequences({ sheet }: { sheet: Sheet }) {
  return (
    <section aria-labelledby="consequences" className="space-y-4">
      <h2 id="consequences" className="text-2xl font-bold">
        What it will do
      </h2>
      <dl className="grid grid-cols-[max-content_1fr] gap-x-4">
        {[
          ["Takes", `about ${sheet.minutes} minutes, price ${showMoney(sheet.price)}`],
          ["Skill", sheet.kit.skill],
          ["Tools", sheet.kit.tools.join(", ")],
          ["In the box", sheet.kit.parts.join(", ")],
          ["Screws", (sheet.kit.screws ?? []).join(", ")],
          ["Risk", sheet.kit.risk ?? ""],
        ]
          .filter(([, text]) => text)
          .map(([word, text]) => (
            <div key={word} className="contents">
              <dt className="text-dim">{word}</dt>
              <dd>{text}</dd>
            </div>
          ))}
      </dl>
      <div>
        <h3 className="font-bold">Changed</h3>
        <ul>
          {sheet.exchanges.map((x) => (
            <li key={x.slot} className="border-b border-rule py-1">
              {x.label}: <span className="text-dim">{x.before}</span> → <b>{x.after}</b>
            </li>
          ))}
        </ul>
      </div>
      <div>
        <h3 className="font-bold">No longer valid</h3>
        {sheet.invalid.length === 0 && <p className="text-dim">No recorded calibration depends on what changes.</p>}
        <ul>
          {sheet.invalid.map((x) => (
            <li key={x.title} className="border-b border-rule py-1">
              <b>{x.title}</b> {x.value && <span className="font-mono">{x.value}</span>}: {x.remedy}
              <span className="block text-sm text-dim">{x.reason}</span>
            </li>
          ))}
        </ul>
      </div>
      <div>
        <h3 className="font-bold">To do afterwards, in this order</h3>
        <p>{sheet.needed.join(" → ") || "Nothing."}</p>
      </div>
      <ThenConsequences kit={sheet.kit.key} machineId={sheet.machineId} />
    </section>
  );
}

// HeadsOf says for which head the verdict is, and how the kit comes out for the others.
function HeadsOf({ sheet }: { sheet: Sheet }) {
  const { heads, head } = sheet.verdict;
  const at = (key: string) => `/ask/${key}/${sheet.machineId}`;
  if (head && heads.length === 0)
    return (
      <p className="mt-1">
        For head {head}.{" "}
        <Link
          className="inline-flex min-h-10 items-center underline underline-offset-4"
          to={at(sheet.kit.key.replace(/@\d+$/, ""))}
        >
          All heads
        </Link>
      </p>
    );
  if (heads.length < 2) return null;
  return (
    <div className="mt-2 max-w-3xl">
      <p>It can be fitted to any one head; this is for head {head}, where it fits best.</p>
      <ul className="mt-1 bg-leaf">
        {heads.map((h) => (
          <li key={h.head} className="flex flex-wrap items-baseline gap-x-3 border-b border-rule px-3 py-1">
            <Link className="inline-flex min-h-10 items-center underline underline-offset-4" to={at(h.key)}>
              Head {h.head}
            </Link>
            <VerdictMark answer={h.answer} lean={h.lean || undefined} />
            <span className="text-dim">{h.headline}</span>
          </li>
        ))}
      </ul>
    </div>
  );
}
