import { api, unwrap } from "../../api/client";
import { Button, Fault } from "../../ui/form";
import { TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import type { Order } from "./StepList";

/** Ends the work without its change: at once where nothing was done, else step by step. */
export function Abandon({ order }: { order: Order }) {
  if (order.back) return null;
  return order.mayBack ? <RollBack order={order} /> : <CancelOrder order={order} />;
}

function CancelOrder({ order }: { order: Order }) {
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

function RollBack({ order }: { order: Order }) {
  const form = useKeptForm(`roll-back-${order.id}`, { why: "" });
  return (
    <details className="no-print mt-6">
      <summary className="flex min-h-11 cursor-pointer items-center text-dim">
        It does not work out: roll it back
      </summary>
      <p className="mb-3 max-w-3xl text-dim">
        The order gets steps that put the machine back as it was: the old parts, their wires, the build and its values;
        then what has to be proven and measured again. What was done stays on record.
      </p>
      <SendForm
        form={form}
        className="max-w-3xl space-y-3"
        send={(body) => unwrap(api.POST("/api/work/{id}/roll-back", { params: { path: { id: order.id } }, body }))}
        onSent={() => toast("The order has the steps that roll it back")}
        button="Roll it back"
        tone="danger"
      >
        <TextField control={form.control} name="why" label="Why it is rolled back" required maxLength={300} />
      </SendForm>
    </details>
  );
}
