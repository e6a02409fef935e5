import { api, type Schemas, unwrap } from "../../api/client";
import { Button, Fault } from "../../ui/form";
import { AreaField, DayField, TextField } from "../../ui/forms/fields";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

/** Changes what is written of an order; closes it though not all of it came, or opens it again. */
export function EditPurchase({ order: p, onClose }: { order: Schemas["PurchaseSheet"]; onClose: () => void }) {
  const form = useKeptForm(`purchase-${p.id}-${p.version}`, {
    supplier: p.supplier,
    reference: p.reference ?? "",
    orderedOn: p.orderedOn ?? "",
    note: p.note ?? "",
    closedWhy: p.closedWhy ?? "",
  });
  const { write, busy, fault } = useWrite();
  return (
    <Panel open onOpenChange={onClose} title={`Order of ${p.supplier}`}>
      <form
        className="space-y-4"
        onSubmit={form.handleSubmit((said) =>
          write(
            () =>
              unwrap(
                api.PUT("/api/purchases/{id}", {
                  params: { path: { id: p.id } },
                  body: { ...said, version: p.version },
                }),
              ),
            () => {
              form.forget();
              toast("The order is saved");
              onClose();
            },
          ),
        )}
      >
        <TextField control={form.control} name="supplier" label="Supplier" required maxLength={120} />
        <TextField control={form.control} name="reference" label="The supplier's order number" maxLength={120} />
        <DayField control={form.control} name="orderedOn" label="Ordered on" />
        <AreaField control={form.control} name="note" label="Note" maxLength={1000} />
        <TextField
          control={form.control}
          name="closedWhy"
          label="Closed, because"
          hint="What has not come is then waited for no more. Empty: the order is open."
          maxLength={120}
        />
        <Fault text={fault} />
        <Button type="submit" main disabled={busy}>
          Save
        </Button>
      </form>
    </Panel>
  );
}
