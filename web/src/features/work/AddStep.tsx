import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { Button } from "../../ui/form";
import { AreaField, CheckField, TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import type { Order } from "./StepList";

/** Adds a step of the house's own after one of an open order; for good, where the kit is the shop's. */
export function AddStep({ order, after }: { order: Order; after: Schemas["OrderStep"] }) {
  const [open, setOpen] = useState(false);
  const form = useKeptForm(`step-${order.id}-${after.key}`, { title: "", do: "", keep: false });
  if (!open) return <Button onClick={() => setOpen(true)}>Add a step after it …</Button>;
  return (
    <Panel open onOpenChange={setOpen} title="Add a step">
      <p className="mb-4 text-dim">It comes after: {after.title}.</p>
      <SendForm
        form={form}
        send={(said) =>
          unwrap(
            api.POST("/api/work/{id}/steps", {
              params: { path: { id: order.id } },
              body: { after: after.key, ...said },
            }),
          )
        }
        onSent={(_, { keep }) => {
          toast(keep ? `The step is added, and is in every later order of ${order.kit}` : "The step is added");
          setOpen(false);
        }}
        button="Add the step"
      >
        <TextField control={form.control} name="title" label="What is to be done" required maxLength={120} />
        <AreaField control={form.control} name="do" label="How" maxLength={1000} />
        {order.mayKeepSteps && (after.phase === "Fit" || after.phase === "Wire") && (
          <CheckField control={form.control} name="keep" label={`In every later order of ${order.kit} too`} />
        )}
      </SendForm>
    </Panel>
  );
}
