import { useFieldArray } from "react-hook-form";
import { api, type Schemas, unwrap } from "../../api/client";
import { Button, Fault } from "../../ui/form";
import { CheckField, DayField, TextField } from "../../ui/forms/fields";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { useGo } from "../../ui/go";
import { showMoney } from "../../ui/money";
import { SupplierNames } from "../../ui/SupplierNames";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

/** Puts an order list on record as orders, one of each supplier. */
export function PlaceOrder({ lines, onPlaced }: { lines: readonly Schemas["OrderLine"][]; onPlaced: () => void }) {
  const go = useGo();
  const form = useKeptForm(`place-order ${lines.map((l) => `${l.count} ${l.what}`).join()}`, {
    orderedOn: "",
    lines: lines.map((l) => ({ order: true, supplier: l.supplier })),
  });
  const { fields } = useFieldArray({ control: form.control, name: "lines" });
  const { write, busy, fault } = useWrite();
  const chosen = form.watch("lines").filter((l) => l.order).length;
  return (
    <form
      className="mt-4 space-y-3"
      onSubmit={form.handleSubmit((said) =>
        write(
          () => unwrap(api.POST("/api/purchases", { body: { orders: ordersOf(lines, said) } })),
          ({ ids }) => {
            form.forget();
            toast(
              ids.length === 1 ? "The order is on record" : `${ids.length} orders are on record, one of each supplier`,
            );
            onPlaced();
            go(ids.length === 1 ? `/purchase/${ids[0]}` : "/purchases");
          },
        ),
      )}
    >
      <SupplierNames id="order-suppliers" />
      {fields.map((f, i) => {
        const line = lines[i];
        if (!line) return null;
        return (
          <div key={f.id} className="grid items-end gap-x-4 sm:grid-cols-2">
            <CheckField
              control={form.control}
              name={`lines.${i}.order`}
              label={`${line.count} × ${line.what}${line.price ? `, ${showMoney(line.price)}` : ""}`}
            />
            <TextField
              control={form.control}
              name={`lines.${i}.supplier`}
              label="Supplier"
              list="order-suppliers"
              required={form.watch(`lines.${i}.order`)}
              maxLength={120}
            />
          </div>
        );
      })}
      <DayField control={form.control} name="orderedOn" label="Ordered on" hint="Today when left empty" />
      <Fault text={fault} />
      <Button type="submit" main disabled={busy || chosen === 0}>
        Save as ordered
      </Button>
    </form>
  );
}

/** The chosen lines, together by supplier. */
function ordersOf(
  lines: readonly Schemas["OrderLine"][],
  said: { orderedOn: string; lines: readonly { order: boolean; supplier: string }[] },
) {
  const orders = new Map<string, Schemas["NewPurchase"]>();
  lines.forEach((l, i) => {
    const { order, supplier = "" } = said.lines[i] ?? { order: false };
    if (!order) return;
    const of = orders.get(supplier) ?? { supplier, orderedOn: said.orderedOn, lines: [] };
    of.lines.push({ kit: l.kit, what: l.kit ? "" : l.what, count: l.count, price: l.price, machines: l.machineIds });
    orders.set(supplier, of);
  });
  return [...orders.values()];
}
