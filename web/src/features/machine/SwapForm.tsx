import { useQuery } from "@tanstack/react-query";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { isProposed } from "../../ui/catalogueKeys";
import { SelectField, TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { useGo } from "../../ui/go";

/** Opens a work order for one part for another: from the shelf, a new one of the same, or another model. */
export function SwapForm({ machineId, slot, model }: { machineId: number; slot: Schemas["SlotSheet"]; model: string }) {
  const go = useGo();
  const form = useKeptForm(`swap-${machineId}-${slot.key}`, {
    part: "",
    model: model === "unknown" ? "" : model,
    reason: "",
  });
  const { control } = form;
  const catalogue = useQuery({ queryKey: keys.catalogue(), queryFn: () => unwrap(api.GET("/api/catalogue")) });
  const kind = catalogue.data?.catalogue.slots.find((s) => s.key === slot.key)?.kind;
  const shelf = useQuery({
    queryKey: keys.partsFor(machineId, slot.key),
    queryFn: () =>
      unwrap(
        api.GET("/api/machines/{id}/positions/{position}/parts", {
          params: { path: { id: machineId, position: slot.key } },
        }),
      ),
  });
  const spares = (shelf.data?.rows ?? []).filter((r) => r.model);
  const fromShelf = form.watch("part") !== "";
  return (
    <section className="mb-6">
      <h3 className="mb-2 border-b border-line pb-1 text-xl font-bold">Swap this part</h3>
      <p className="mb-2 text-dim">
        A work order with the steps that this part needs. Another model is judged first; a new one of the same is a
        repair.
      </p>
      <SendForm
        form={form}
        className="grid gap-3 sm:grid-cols-2"
        send={({ part, ...said }) =>
          unwrap(
            api.POST("/api/machines/{id}/swap", {
              params: { path: { id: machineId } },
              body: { position: slot.key, ...said, part: Number(part) || undefined },
            }),
          )
        }
        onSent={({ id }) => go(`/work/${id}`)}
        button="Open the work order"
      >
        {spares.length > 0 && (
          <div className="sm:col-span-2">
            <SelectField
              control={control}
              name="part"
              label="From the shelf"
              empty="Not from the shelf"
              options={spares.map(
                (r) =>
                  [
                    String(r.part),
                    [r.model, r.tag, r.shelf && `shelf ${r.shelf}`, r.verdict.answer].filter(Boolean).join(", "),
                  ] as const,
              )}
            />
          </div>
        )}
        {!fromShelf && (
          <TextField
            control={control}
            name="model"
            label="Model that comes in"
            hint="none where the position stays empty"
            list={`models-of-${slot.key}`}
            required
            maxLength={120}
          />
        )}
        <TextField control={control} name="reason" label="Why it is touched" required maxLength={300} />
        <datalist id={`models-of-${slot.key}`}>
          {catalogue.data?.catalogue.models
            .filter((m) => m.kind === kind && isProposed(m))
            .map((m) => (
              <option key={m.name} value={m.name} />
            ))}
        </datalist>
      </SendForm>
    </section>
  );
}
