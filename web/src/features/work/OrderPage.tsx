import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { Link, useParams } from "react-router";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { ChangesOfThing } from "../../ui/Changes";
import { showDay } from "../../ui/dates";
import { Button, Fault } from "../../ui/form";
import { Page } from "../../ui/Page";
import { Planned } from "../../ui/Planned";
import { useMayWork } from "../../ui/session";
import { Loaded } from "../../ui/states";
import { useJob } from "../../ui/useJob";
import { Abandon } from "./Abandon";
import { ClosingView } from "./ClosingView";
import { Comparison } from "./Comparison";
import { FinishView } from "./FinishView";
import { Locks } from "./Locks";
import { PrintedSteps } from "./PrintedSteps";
import { type Order, StepList, settled } from "./StepList";
import { StepView } from "./StepView";
import { useGoesOn } from "./useGoesOn";
import { useOutbox } from "./useOutbox";

export default function OrderPage() {
  const id = Number(useParams().id);
  const query = useQuery({
    queryKey: keys.order(id),
    queryFn: () => unwrap(api.GET("/api/work/{id}", { params: { path: { id } } })),
    // Others at the same work see each tick within seconds.
    refetchInterval: (q) => (q.state.data?.state === "open" ? 4_000 : false),
  });
  return (
    <Loaded query={query} what="Reading the work order">
      {(order) => <OrderView order={order} />}
    </Loaded>
  );
}

/** A change of its own is named in small letters, as within a sentence. */
const capital = (words: string) => words.charAt(0).toUpperCase() + words.slice(1);

function OrderView({ order: stored }: { order: Order }) {
  const { shown: order, own, others, refused } = useOutbox(stored);
  useJob();
  useGoesOn(stored);
  const mayWork = useMayWork();
  const firstOpen = order.stepList.findIndex((s) => !settled(s));
  const [at, setAt] = useState(firstOpen < 0 ? order.stepList.length : firstOpen);
  const before = useRef(firstOpen);
  // Ticking a step moves on to the next; undoing goes back to it. Who looks at another step stays
  // there while a colleague ticks.
  const end = order.stepList.length;
  useEffect(() => {
    const was = before.current < 0 ? end : before.current;
    const is = firstOpen < 0 ? end : firstOpen;
    before.current = firstOpen;
    if (was !== is) setAt((at) => (at === was || is < was ? is : at));
  }, [firstOpen, end]);
  const step = order.stepList[at];
  return (
    <Page
      title={`${capital(order.kit)} on ${order.machine}`}
      lead={
        <>
          Work order {order.id} · {order.reason} · {order.state === "planned" ? "planned" : "opened"}{" "}
          {showDay(order.openedAt)} by {order.openedBy} ·{" "}
          <Link className="underline underline-offset-4" to={`/machine/${order.machineId}`}>
            the machine's sheet
          </Link>
          {order.batch && (
            <>
              {" · "}
              <Link className="underline underline-offset-4" to={`/work/batch/${order.batch}`}>
                done together with others
              </Link>
            </>
          )}
          {order.fault && (
            <>
              {" · "}
              <Link className="underline underline-offset-4" to={`/faults?machine=${order.machineId}`}>
                the fault that it mends
              </Link>
            </>
          )}
        </>
      }
      actions={<Button onClick={() => print()}>Print</Button>}
    >
      {order.state === "open" && mayWork && <Locks order={order} />}
      {own > 0 && (
        <p role="status" className="mb-3 max-w-5xl border-l-4 border-look bg-look-wash px-4 py-2">
          {own === 1 ? "1 step waits" : `${own} steps wait`} on this device for a connection, and{" "}
          {own === 1 ? "is" : "are"} sent by {own === 1 ? "itself" : "themselves"}. Go on working.
        </p>
      )}
      {others.length > 0 && (
        <p role="status" className="mb-3 max-w-5xl border-l-4 border-look bg-look-wash px-4 py-2">
          What {others.join(", ")} did without a connection waits on this device: it is sent when they sign in here.
        </p>
      )}
      <Fault text={refused} />
      {order.back && (
        <p className="mb-3 max-w-5xl border-l-4 border-look bg-look-wash px-4 py-2">
          <b>Rolled back</b> since {showDay(order.back.at)} by {order.back.by}: {order.back.why}
        </p>
      )}
      {order.state === "open" &&
        order.remarks.map((r) => (
          <p key={r} className="mb-2 max-w-5xl border-l-4 border-look bg-look-wash px-3 py-2">
            {r}
          </p>
        ))}
      {order.state === "open" && order.delivery.length > 0 && !order.stepList.some((s) => s.found?.length) && (
        <p className="mb-2 max-w-5xl border-l-4 border-look bg-look-wash px-3 py-2">
          To check on the parts that came: {order.delivery.join("; ")}.
        </p>
      )}
      {order.state === "finished" && <Comparison order={order} />}
      {order.state === "finished" && order.closing && <ClosingView order={order} closing={order.closing} />}
      {order.state === "abandoned" && (
        <p className="mb-4 text-lg">
          Cancelled on {showDay(order.closedAt)},{" "}
          {order.back ? "with the machine put back as it was." : "without any work done to the machine."}
        </p>
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
