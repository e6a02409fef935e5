import { api, unwrap } from "../../api/client";
import { AreaField, TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import type { Order } from "./StepList";

/** Leaves the work for a while, with what whoever goes on has to know. */
export function ParkPanel({ order, onClose }: { order: Order; onClose: () => void }) {
  const form = useKeptForm(`park-${order.id}`, { why: "", loose: "", screws: "", waits: "" });
  return (
    <Panel open onOpenChange={onClose} title="Pause work">
      <p className="mb-4 text-dim">
        The machine stays locked out; your own lock comes off. Another goes on in one tap.
      </p>
      <SendForm
        form={form}
        send={(body) => unwrap(api.POST("/api/work/{id}/park", { params: { path: { id: order.id } }, body }))}
        onSent={() => {
          toast("The work is left for now; the machine stays locked out");
          onClose();
        }}
        button="Pause work"
      >
        <TextField control={form.control} name="why" label="Why" required maxLength={300} />
        <AreaField
          control={form.control}
          name="loose"
          label="What is loose, unplugged or unsafe"
          hint="Or: nothing"
          required
          maxLength={500}
        />
        <TextField control={form.control} name="screws" label="Where screws and parts lie" maxLength={300} />
        <TextField control={form.control} name="waits" label="What it waits for" maxLength={300} />
      </SendForm>
    </Panel>
  );
}
