import { useState } from "react";
import { api, unwrap } from "../../api/client";
import { State } from "../../ui/badges";
import { Button, Fault, Field, TextInput } from "../../ui/form";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { type Order, settled } from "./StepList";

export function FinishView({ order, mayWork }: { order: Order; mayWork: boolean }) {
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
          {order.back
            ? "The machine is back as it was. Finishing cancels the order and ends the lock-out."
            : "Every step is done or skipped. Finishing makes this the machine's record and ends the lock-out."}
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
      {!order.back && (
        <>
          <h3 className="mt-4 font-bold">Will be recorded as fitted</h3>
          <ul>
            {order.expected.exchanges.length === 0 && <li>No part was changed.</li>}
            {order.expected.exchanges.map((x) => (
              <li key={x.slot}>
                {x.label}: <span className="text-dim">{x.before}</span> → <b>{x.after}</b>
              </li>
            ))}
          </ul>
        </>
      )}
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
