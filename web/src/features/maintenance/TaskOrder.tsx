import { api, type Schemas, unwrap } from "../../api/client";
import { TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { useGo } from "../../ui/go";

/** Does a task as a work order: what the new part makes invalid is measured again in it. */
export function TaskOrder({ machineId, task }: { machineId: number; task: Schemas["Task"] }) {
  const go = useGo();
  const form = useKeptForm(`task-${machineId}-${task.key}`, { model: "" });
  return (
    <section className="mt-6 border-t-2 border-line pt-4">
      <h3 className="text-xl font-bold">Or do it as a work order</h3>
      <p className="mb-3 text-dim">
        Step by step, the machine locked out meanwhile; what depends on the part is measured again before it is back in
        use.
      </p>
      <SendForm
        form={form}
        send={({ model }) =>
          unwrap(api.POST("/api/work/task", { body: { machineId, task: task.key, model: model.trim() || undefined } }))
        }
        onSent={({ id }) => go(`/work/${id}`)}
        button="Open the work order"
        tone="plain"
      >
        {task.always && (
          <TextField
            control={form.control}
            name="model"
            label="Model that goes in"
            hint="Only where the one that is there is not on record; otherwise the same goes in"
            maxLength={120}
          />
        )}
      </SendForm>
    </section>
  );
}
