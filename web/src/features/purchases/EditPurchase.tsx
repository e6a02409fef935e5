import { api, type Schemas, unwrap } from "../../api/client";
import { AreaField, DayField, TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useEditForm } from "../../ui/forms/useEditForm";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";

/** Changes what is written of an order; closes it though not all of it came, or opens it again. */
export function EditPurchase({ order: p, onClose }: { order: Schemas["PurchaseSheet"]; onClose: () => void }) {
  const form = useEditForm(`purchase-${p.id}`, p.version, {
    supplier: p.supplier,
    reference: p.reference ?? "",
    orderedOn: p.orderedOn ?? "",
    expectedOn: p.expectedOn ?? "",
    note: p.note ?? "",
    closedWhy: p.closedWhy ?? "",
  });
  const { control } = form;
  return (
    <Panel open onOpenChange={onClose} title={`Order of ${p.supplier}`}>
      <SendForm
        form={form}
        send={(said) =>
          unwrap(
            api.PUT("/api/purchases/{id}", {
              params: { path: { id: p.id } },
              body: { ...said, version: form.version },
            }),
          )
        }
        onSent={() => {
          toast("The order is saved");
          onClose();
        }}
        button="Save"
      >
        <TextField control={control} name="supplier" label="Supplier" required maxLength={120} />
        <TextField control={control} name="reference" label="The supplier's order number" maxLength={120} />
        <DayField control={control} name="orderedOn" label="Ordered on" />
        <DayField control={control} name="expectedOn" label="Expected on" hint="Empty where nobody knows" />
        <AreaField control={control} name="note" label="Note" maxLength={1000} />
        <TextField
          control={control}
          name="closedWhy"
          label="Closed, because"
          hint="What has not come is then waited for no more. Empty: the order is open."
          maxLength={120}
        />
      </SendForm>
    </Panel>
  );
}
