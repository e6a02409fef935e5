import { api, unwrap } from "../../api/client";
import { Button, Fault } from "../../ui/form";
import { AreaField, TextField } from "../../ui/forms/fields";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import type { Order } from "./StepList";

/** Leaves the work for a while, with what whoever goes on has to know. */
export function ParkPanel({ order, onClose }: { order: Order; onClose: () => void }) {
  const form = useKeptForm(`park-${order.id}`, { why: "", loose: "", screws: "", waits: "" });
  const { write, busy, fault } = useWrite();
  return (
    <Panel open onOpenChange={onClose} title="Leave it for now">
      <p className="mb-4 text-dim">
        The machine stays locked out; your own lock comes off. Another goes on in one tap.
      </p>
      <form
        className="space-y-4"
        onSubmit={form.handleSubmit((said) =>
          write(
            () => unwrap(api.POST("/api/work/{id}/park", { params: { path: { id: order.id } }, body: said })),
            () => {
              form.forget();
              toast("The work is left for now; the machine stays locked out");
              onClose();
            },
          ),
        )}
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
        <Fault text={fault} />
        <Button type="submit" main disabled={busy}>
          Leave it
        </Button>
      </form>
    </Panel>
  );
}
