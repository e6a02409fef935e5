import { api, type Schemas, unwrap } from "../../api/client";
import { TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { toast } from "../../ui/toast";

/** Records that a part was changed without a work order. */
export function ExchangeForm({
  machineId,
  slot,
  onDone,
}: {
  machineId: number;
  slot: Schemas["SlotSheet"];
  onDone: () => void;
}) {
  const form = useKeptForm(`exchange-${machineId}-${slot.key}`, { model: "", how: "" });
  return (
    <section>
      <h3 className="mb-2 border-b border-line pb-1 text-xl font-bold">The part was changed</h3>
      <p className="mb-2 text-dim">
        A new part starts without the old one's readings, and what depends on the old one is no longer valid. For a kit,
        open a work order instead.
      </p>
      <SendForm
        form={form}
        className="grid gap-3 sm:grid-cols-2"
        send={(typed) =>
          unwrap(
            api.POST("/api/machines/{id}/exchange", {
              params: { path: { id: machineId } },
              body: { slot: slot.key, ...typed },
            }),
          )
        }
        onSent={(_, { model }) => {
          toast(`${slot.label}: ${model} recorded`);
          onDone();
        }}
        button="Record the change"
        tone="plain"
        disabled={!form.watch("model")}
      >
        <TextField control={form.control} name="model" label="New model" hint="none for an emptied position" required />
        <TextField control={form.control} name="how" label="Why" />
      </SendForm>
    </section>
  );
}
