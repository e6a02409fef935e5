import { api, type Schemas, unwrap } from "../../api/client";
import { Cautions } from "../../ui/form";
import { CheckField, TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { Panel } from "../../ui/Panel";
import type { Order } from "./StepList";

/** A lead takes off the lock of somebody who cannot: after reaching them, and with a reason. */
export function TakeLockPanel({ order, lock, onClose }: { order: Order; lock: Schemas["Lock"]; onClose: () => void }) {
  const form = useKeptForm(`lock-${lock.id}`, { contacted: false, why: "" });
  return (
    <Panel open onOpenChange={onClose} title={`Take off the lock of ${lock.name}`}>
      <Cautions
        list={[
          "A lock says that somebody may have their hands in the machine. Look, and reach its holder, before it comes off.",
        ]}
      />
      <SendForm
        form={form}
        className="mt-4 space-y-4"
        send={(body) =>
          unwrap(
            api.POST("/api/work/{id}/locks/{lock}/off", { params: { path: { id: order.id, lock: lock.id } }, body }),
          )
        }
        onSent={onClose}
        button="Take the lock off"
        tone="danger"
      >
        <CheckField
          control={form.control}
          name="contacted"
          label={`${lock.name} was reached, and nobody is at the machine`}
        />
        <TextField control={form.control} name="why" label="Why it is taken off for them" required maxLength={300} />
      </SendForm>
    </Panel>
  );
}
