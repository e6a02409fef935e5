import { useState } from "react";
import { api, unwrap } from "../../api/client";
import { Button, Fault } from "../../ui/form";
import { AreaField, TextField } from "../../ui/forms/fields";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

/** Adds a step of the house's own after one of an open order. */
export function AddStep({ order, after, title }: { order: number; after: string; title: string }) {
  const [open, setOpen] = useState(false);
  const form = useKeptForm(`step-${order}-${after}`, { title: "", do: "" });
  const { write, busy, fault } = useWrite();
  if (!open) return <Button onClick={() => setOpen(true)}>Add a step after it …</Button>;
  return (
    <Panel open onOpenChange={setOpen} title="Add a step">
      <p className="mb-4 text-dim">It comes after: {title}.</p>
      <form
        className="space-y-4"
        onSubmit={form.handleSubmit((said) =>
          write(
            () =>
              unwrap(api.POST("/api/work/{id}/steps", { params: { path: { id: order } }, body: { after, ...said } })),
            () => {
              form.forget();
              toast("The step is added");
              setOpen(false);
            },
          ),
        )}
      >
        <TextField control={form.control} name="title" label="What is to be done" required maxLength={120} />
        <AreaField control={form.control} name="do" label="How" maxLength={1000} />
        <Fault text={fault} />
        <Button type="submit" main disabled={busy}>
          Add the step
        </Button>
      </form>
    </Panel>
  );
}
