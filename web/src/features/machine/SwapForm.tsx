import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { isProposed } from "../../ui/catalogueKeys";
import { Button, Fault } from "../../ui/form";
import { TextField } from "../../ui/forms/fields";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { useWrite } from "../../ui/write";

/** Opens a work order for one part for another: a new one of the same, or another model. */
export function SwapForm({ machineId, slot, model }: { machineId: number; slot: Schemas["SlotSheet"]; model: string }) {
  const go = useNavigate();
  const form = useKeptForm(`swap-${machineId}-${slot.key}`, { model: model === "unknown" ? "" : model, reason: "" });
  const catalogue = useQuery({ queryKey: keys.catalogue(), queryFn: () => unwrap(api.GET("/api/catalogue")) });
  const kind = catalogue.data?.catalogue.slots.find((s) => s.key === slot.key)?.kind;
  const { write, busy, fault } = useWrite();
  return (
    <section className="mb-6">
      <h3 className="mb-2 border-b border-line pb-1 text-xl font-bold">Swap this part</h3>
      <p className="mb-2 text-dim">
        A work order with the steps that this part needs. Another model is judged first; a new one of the same is a
        repair.
      </p>
      <form
        className="grid gap-3 sm:grid-cols-2"
        onSubmit={form.handleSubmit((said) =>
          write(
            () =>
              unwrap(
                api.POST("/api/machines/{id}/swap", {
                  params: { path: { id: machineId } },
                  body: { position: slot.key, ...said },
                }),
              ),
            ({ id }) => {
              form.forget();
              go(`/work/${id}`);
            },
          ),
        )}
      >
        <TextField
          control={form.control}
          name="model"
          label="Model that comes in"
          hint="none where the position stays empty"
          list={`models-of-${slot.key}`}
          required
          maxLength={120}
        />
        <TextField control={form.control} name="reason" label="Why it is touched" required maxLength={300} />
        <datalist id={`models-of-${slot.key}`}>
          {catalogue.data?.catalogue.models
            .filter((m) => m.kind === kind && isProposed(m))
            .map((m) => (
              <option key={m.name} value={m.name} />
            ))}
        </datalist>
        <div className="sm:col-span-2">
          <Fault text={fault} />
          <Button type="submit" main disabled={busy}>
            Open the work order
          </Button>
        </div>
      </form>
    </section>
  );
}
