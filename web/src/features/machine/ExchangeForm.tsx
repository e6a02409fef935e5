import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { Button, Fault, Field, TextInput } from "../../ui/form";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

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
  const [model, setModel] = useState("");
  const [how, setHow] = useState("");
  const { write, busy, fault } = useWrite();
  return (
    <section>
      <h3 className="mb-2 border-b border-line pb-1 text-xl font-bold">The part was changed</h3>
      <p className="mb-2 text-dim">
        A new part starts without the old one's readings, and what depends on the old one is no longer valid. For a kit,
        open a work order instead.
      </p>
      <form
        className="grid gap-3 sm:grid-cols-2"
        onSubmit={(e) => {
          e.preventDefault();
          write(
            () =>
              unwrap(
                api.POST("/api/machines/{id}/exchange", {
                  params: { path: { id: machineId } },
                  body: { slot: slot.key, model, how },
                }),
              ),
            () => {
              toast(`${slot.label}: ${model} recorded`);
              onDone();
            },
          );
        }}
      >
        <Field label="New model" htmlFor="exchange-model" hint="none for an emptied position">
          <TextInput id="exchange-model" value={model} onChange={setModel} required />
        </Field>
        <Field label="Why" htmlFor="exchange-how">
          <TextInput id="exchange-how" value={how} onChange={setHow} />
        </Field>
        <div className="sm:col-span-2">
          <Fault text={fault} />
          <Button type="submit" disabled={busy || !model}>
            Record the change
          </Button>
        </div>
      </form>
    </section>
  );
}
