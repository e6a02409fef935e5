import { api, type Schemas, unwrap } from "../../api/client";
import { Button, Cautions, Fault } from "../../ui/form";
import { CheckField, TextField } from "../../ui/forms/fields";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { Panel } from "../../ui/Panel";
import { useWrite } from "../../ui/write";
import type { Order } from "./StepList";

/** A lead takes off the lock of somebody who cannot: after reaching them, and with a reason. */
export function TakeLockPanel({ order, lock, onClose }: { order: Order; lock: Schemas["Lock"]; onClose: () => void }) {
  const form = useKeptForm(`lock-${lock.id}`, { contacted: false, why: "" });
  const { write, busy, fault } = useWrite();
  return (
    <Panel open onOpenChange={onClose} title={`Take off the lock of ${lock.name}`}>
      <Cautions
        list={[
          "A lock says that somebody may have their hands in the machine. Look, and reach its holder, before it comes off.",
        ]}
      />
      <form
        className="mt-4 space-y-4"
        onSubmit={form.handleSubmit((said) =>
          write(
            () =>
              unwrap(
                api.POST("/api/work/{id}/locks/{lock}/off", {
                  params: { path: { id: order.id, lock: lock.id } },
                  body: said,
                }),
              ),
            () => {
              form.forget();
              onClose();
            },
          ),
        )}
      >
        <CheckField
          control={form.control}
          name="contacted"
          label={`${lock.name} was reached, and nobody is at the machine`}
        />
        <TextField control={form.control} name="why" label="Why it is taken off for them" required maxLength={300} />
        <Fault text={fault} />
        <Button type="submit" main danger disabled={busy}>
          Take the lock off
        </Button>
      </form>
    </Panel>
  );
}
