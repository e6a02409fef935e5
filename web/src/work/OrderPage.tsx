import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link, useParams } from "react-router";
import { api, type Schemas, unwrap } from "../api/client";
import { useMayWork } from "../app/session";
import { ChangesOfThing } from "../history/Changes";
import { State } from "../ui/badges";
import { showDay } from "../ui/dates";
import { Button, Fault, Field, TextInput } from "../ui/form";
import { Page } from "../ui/Page";
import { Loaded } from "../ui/states";
import { toast } from "../ui/toast";
import { useJob } from "../ui/useJob";
import { useWrite } from "../ui/write";
import { ClosingView } from "./ClosingView";
import { Planned } from "./Planned";
import { StepView } from "./StepView";

type Order = Schemas["Order"];

export default function OrderPage() {
  const id = Number(useParams().id);
  const query = useQuery({
    queryKey: ["order", id],
    queryFn: () => unwrap(api.GET("/api/work/{id}", { params: { path: { id } } })),
  });
  return (
    <Loaded query={query} what="Reading the work order">
      {(order) => <OrderView order={order} />}
    </Loaded>
  );
}

export function settled(s: Schemas["OrderStep"]) {
  return Boolean(s.doneAt || s.skippedWhy);
}

function OrderView({ order }: { order: Order }) {
  useJob();
  const mayWork = useMayWork();
  const firstOpen = order.stepList.findIndex((s) => !settled(s));
  const [at, setAt] = useState(firstOpen < 0 ? order.stepList.length : firstOpen);
  const before = useRef(firstOpen);
  // Ticking a step moves on to the next; undoing goes back to it.
  useEffect(() => {
    if (before.current !== firstOpen) {
      before.current = firstOpen;
      setAt(firstOpen < 0 ? order.stepList.length : firstOpen);
    }
  }, [firstOpen, order.stepList.length]);
  const step = order.stepList[at];
  return (
    <Page
      title={`${order.kit} on ${order.machine}`}
      lead={
        <>
          Work order {order.id} · {order.reason} · {order.state === "planned" ? "planned" : "opened"}{" "}
          {showDay(order.openedAt)} by {order.openedBy} ·{" "}
          <Link className="underline underline-offset-4" to={`/machine/${order.machineId}`}>
            the machine's sheet
          </Link>
        </>
      }
      actions={<Button onClick={() => print()}>Print</Button>}
    >
      {order.state === "open" &&
        [...order.remarks, ...order.delivery.map((d) => `To check on the delivered part: ${d}`)].map((r) => (
          <p key={r} className="mb-2 max-w-4xl border-l-4 border-look bg-look-wash px-3 py-2">
            {r}
          </p>
        ))}
      {order.state === "finished" && order.closing && <ClosingView order={order} closing={order.closing} />}
      {order.state === "abandoned" && (
        <p className="mb-4 text-lg">Closed on {showDay(order.closedAt)} without any work done to the machine.</p>
      )}
      {order.state === "planned" && (
        <p className="mb-4 text-lg">
          It waits its turn; its steps are written when it is begun, for the machine as it then is.
        </p>
      )}
      {order.state !== "open" && <Planned planned={order.planned} locked={order.locked} mayWork={mayWork} />}
      <PrintedSteps order={order} />
      <div className="grid items-start gap-6 print:hidden lg:grid-cols-[20rem_minmax(0,1fr)]">
        {order.state !== "planned" && <StepList order={order} at={at} onPick={setAt} />}
        {order.state === "open" && (
          <div className="min-w-0">
            {step ? (
              <StepView
                key={step.key}
                order={order}
                step={step}
                number={at + 1}
                mayWork={mayWork}
                current={at === firstOpen}
              />
            ) : (
              <FinishView order={order} mayWork={mayWork} />
            )}
            {mayWork && <Abandon order={order} />}
          </div>
        )}
        {order.state !== "open" && step && (
          <div className="min-w-0">
            <StepView key={step.key} order={order} step={step} number={at + 1} mayWork={false} current={false} />
          </div>
        )}
      </div>
      {order.state === "open" && (
        <div className="mt-8">
          <Planned planned={order.planned} locked={order.id} mayWork={mayWork} />
        </div>
      )}
      <ChangesOfThing of={{ thing: "order", key: String(order.id) }} />
    </Page>
  );
}

/** All steps on paper, with a box for each. */
function PrintedSteps({ order }: { order: Order }) {
  return (
    <ol className="hidden print:block">
      {order.stepList.map((s, i) => (
        <li key={s.key} className="break-inside-avoid border-b border-line py-2">
          <b>
            {settled(s) ? "☑" : "☐"} {i + 1}. {s.title}
          </b>{" "}
          ({s.phase})<p>{s.do}</p>
          {s.cautions.map((c) => (
            <p key={c}>▲ {c}</p>
          ))}
          {s.lines && <p className="font-mono">{s.lines.join(" · ")}</p>}
          {s.note && <p>Note: {s.note}</p>}
        </li>
      ))}
    </ol>
  );
}

function StepList({ order, at, onPick }: { order: Order; at: number; onPick: (i: number) => void }) {
  return (
    <nav
      aria-label="Steps"
      className="order-last bg-leaf lg:order-first lg:sticky lg:top-4 lg:max-h-[calc(100dvh-2rem)] lg:overflow-y-auto"
    >
      <p className="border-b-2 border-line px-3 py-2 font-bold">
        {order.done} of {order.steps} steps done
      </p>
      <ol>
        {order.stepList.map((s, i) => (
          <li key={s.key}>
            {s.phase !== order.stepList[i - 1]?.phase && (
              <div className="bg-wall px-3 pt-2 pb-1 text-sm font-bold text-dim">{s.phase}</div>
            )}
            <button
              type="button"
              aria-current={at === i ? "step" : undefined}
              onClick={() => onPick(i)}
              className={`flex min-h-10 w-full items-baseline gap-2 px-3 py-1 text-left ${at === i ? "bg-accent text-on-accent" : "hover:bg-wash"}`}
            >
              <span className="w-5 shrink-0 font-mono" aria-hidden="true">
                {s.doneAt ? "✓" : s.skippedWhy ? "–" : "·"}
              </span>
              <span className="min-w-0">
                {s.title}
                <span className="sr-only">{s.doneAt ? " (done)" : s.skippedWhy ? " (skipped)" : ""}</span>
              </span>
            </button>
          </li>
        ))}
        {order.state === "open" && (
          <li>
            <button
              type="button"
              onClick={() => onPick(order.stepList.length)}
              className={`min-h-11 w-full border-t-2 border-line px-3 text-left font-bold ${at >= order.stepList.length ? "bg-accent text-on-accent" : "hover:bg-wash"}`}
            >
              Finish
            </button>
          </li>
        )}
      </ol>
    </nav>
  );
}

function FinishView({ order, mayWork }: { order: Order; mayWork: boolean }) {
  const { write, busy, fault } = useWrite();
  const open = order.stepList.filter((s) => !settled(s));
  const skipped = order.stepList.filter((s) => s.skippedWhy);
  const [minutes, setMinutes] = useState("");
  return (
    <section className="border-2 border-accent bg-leaf px-5 py-4">
      <h2 className="text-3xl font-bold">Finish</h2>
      {open.length > 0 ? (
        <p className="mt-2 text-lg">
          {open.length} {open.length === 1 ? "step is" : "steps are"} still open, first: {open[0]?.title}.
        </p>
      ) : (
        <p className="mt-2 text-lg">
          Every step is done or skipped. Finishing makes this the machine's record and ends the lock-out.
        </p>
      )}
      {skipped.length > 0 && (
        <ul className="mt-3">
          {skipped.map((s) => (
            <li key={s.key}>
              <State tone="look">skipped</State> {s.title}: {s.skippedWhy}
            </li>
          ))}
        </ul>
      )}
      <h3 className="mt-4 font-bold">Will be recorded as fitted</h3>
      <ul>
        {order.expected.exchanges.map((x) => (
          <li key={x.slot}>
            {x.label}: <span className="text-dim">{x.before}</span> → <b>{x.after}</b>
          </li>
        ))}
      </ul>
      {mayWork && (
        <div className="mt-4 max-w-xs">
          <Field label="Minutes it took" htmlFor="finish-minutes" hint="The kit's own minutes when left empty">
            <TextInput id="finish-minutes" inputMode="numeric" value={minutes} onChange={setMinutes} />
          </Field>
        </div>
      )}
      <Fault text={fault} />
      {mayWork && (
        <Button
          main
          className="mt-4 text-lg"
          disabled={busy || open.length > 0}
          onClick={() =>
            write(
              () =>
                unwrap(
                  api.POST("/api/work/{id}/finish", {
                    params: { path: { id: order.id } },
                    body: { minutes: Number(minutes) || 0 },
                  }),
                ),
              () => toast(`${order.machine} is back in service`),
            )
          }
        >
          {busy ? "Writing the record …" : "Finish the work"}
        </Button>
      )}
    </section>
  );
}

function Abandon({ order }: { order: Order }) {
  const { write, busy, fault } = useWrite();
  return (
    <details className="no-print mt-6 text-dim">
      <summary className="flex min-h-11 cursor-pointer items-center">Nothing was done: cancel it</summary>
      <p>Possible as long as nothing was done to the machine itself.</p>
      <Fault text={fault} />
      <Button
        danger
        className="mt-2"
        disabled={busy}
        onClick={() => write(() => unwrap(api.POST("/api/work/{id}/abandon", { params: { path: { id: order.id } } })))}
      >
        Cancel the order
      </Button>
    </details>
  );
}
