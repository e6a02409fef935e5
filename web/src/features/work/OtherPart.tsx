import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { isProposed } from "../../ui/catalogueKeys";
import { Button } from "../../ui/form";
import { SelectField, TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import type { Order } from "./StepList";

/** Says during the work which part was really fitted: what it makes necessary joins the order. */
export function OtherPart({ order }: { order: Order }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      <Button onClick={() => setOpen(true)}>Another part was fitted …</Button>
      {open && <OtherPartPanel order={order} onClose={() => setOpen(false)} />}
    </>
  );
}

function OtherPartPanel({ order, onClose }: { order: Order; onClose: () => void }) {
  const form = useKeptForm(`other-part-${order.id}`, { position: "", model: "" });
  const structure = useQuery({
    queryKey: keys.structure(order.machineId),
    queryFn: () => unwrap(api.GET("/api/machines/{id}/structure", { params: { path: { id: order.machineId } } })),
  });
  const catalogue = useQuery({ queryKey: keys.catalogue(), queryFn: () => unwrap(api.GET("/api/catalogue")) });
  const positions = structure.data?.positions.filter((p) => p.kind !== "structure" && p.kind !== "firmware") ?? [];
  const kind = positions.find((p) => p.key === form.watch("position"))?.kind;
  return (
    <Panel open onOpenChange={onClose} title="Another part was fitted">
      <p className="mb-4 text-dim">
        Than this order says, or one that it does not speak of. What was written of the position is replaced; what has
        to be proven and measured because of it joins the order, and is done again where it was done before.
      </p>
      <SendForm
        form={form}
        send={(body) => unwrap(api.POST("/api/work/{id}/parts", { params: { path: { id: order.id } }, body }))}
        onSent={() => {
          toast("The order follows what was fitted");
          onClose();
        }}
        button="Save"
      >
        <SelectField
          control={form.control}
          name="position"
          label="Where"
          required
          empty="Choose a position"
          options={positions.map((p) => [p.key, p.label] as const)}
        />
        <TextField
          control={form.control}
          name="model"
          label="Which model is there now"
          hint="As it is marked; none where the position is empty"
          list="other-part-models"
          required
          maxLength={120}
        />
        <datalist id="other-part-models">
          {catalogue.data?.catalogue.models
            .filter((m) => m.kind === kind && isProposed(m))
            .map((m) => (
              <option key={m.name} value={m.name} />
            ))}
        </datalist>
      </SendForm>
    </Panel>
  );
}
