import { useQuery } from "@tanstack/react-query";
import { useFieldArray } from "react-hook-form";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { Button, Fault } from "../../ui/form";
import { DayField, SelectField, TextField } from "../../ui/forms/fields";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { useGo } from "../../ui/go";
import { moneyOf, moneyPattern } from "../../ui/money";
import { Panel } from "../../ui/Panel";
import { SupplierNames } from "../../ui/SupplierNames";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

const line = { kind: "", what: "", count: "1", price: "" };

/** Writes down what was ordered of a supplier; of what a first line begins with, where something is lacking. */
export function NewPurchase({ first, onClose }: { first?: typeof line; onClose: () => void }) {
  const go = useGo();
  const catalogue = useQuery({ queryKey: keys.catalogue(), queryFn: () => unwrap(api.GET("/api/catalogue")) });
  const form = useKeptForm(`new-purchase${first ? ` ${first.what}` : ""}`, {
    supplier: "",
    reference: "",
    orderedOn: "",
    expectedOn: "",
    lines: [first ?? line],
  });
  const { fields, append, remove } = useFieldArray({ control: form.control, name: "lines" });
  const { write, busy, fault } = useWrite();
  const kinds = catalogue.data?.catalogue.kinds.filter((k) => !k.superseded && !k.software) ?? [];
  return (
    <Panel open onOpenChange={onClose} title="New order">
      <form
        className="space-y-4"
        onSubmit={form.handleSubmit(({ lines, ...order }) =>
          write(
            () =>
              unwrap(
                api.POST("/api/purchases", {
                  body: {
                    orders: [
                      {
                        ...order,
                        lines: lines.map((l) => ({ ...l, count: Number(l.count), price: moneyOf(l.price) })),
                      },
                    ],
                  },
                }),
              ),
            ({ ids }) => {
              form.forget();
              toast("The order is on record");
              go(`/purchase/${ids[0]}`);
            },
          ),
        )}
      >
        <SupplierNames id="supplier-names" />
        <TextField
          control={form.control}
          name="supplier"
          label="Supplier"
          list="supplier-names"
          required
          maxLength={120}
        />
        <div className="grid gap-4 sm:grid-cols-2">
          <TextField control={form.control} name="reference" label="The supplier's order number" maxLength={120} />
          <DayField control={form.control} name="orderedOn" label="Ordered on" hint="Today when left empty" />
          <DayField control={form.control} name="expectedOn" label="Expected on" hint="Empty where nobody knows" />
        </div>
        {fields.map((f, i) => (
          <fieldset key={f.id} className="border-l-4 border-line pl-4">
            <legend className="font-bold">Line {i + 1}</legend>
            <div className="grid gap-3 sm:grid-cols-2">
              <SelectField
                control={form.control}
                name={`lines.${i}.kind`}
                label="Kind of part"
                empty="Goes on no record: paste, screws"
                options={kinds.map((k) => [k.key, k.label] as const)}
              />
              <TextField
                control={form.control}
                name={`lines.${i}.what`}
                label="Model, or what it is"
                required
                maxLength={120}
              />
              <TextField
                control={form.control}
                name={`lines.${i}.count`}
                label="How many"
                type="number"
                min={1}
                max={1000}
                required
              />
              <TextField
                control={form.control}
                name={`lines.${i}.price`}
                label="Price of all of them"
                {...moneyPattern}
              />
            </div>
            {fields.length > 1 && (
              <Button className="mt-2" onClick={() => remove(i)}>
                Remove the line
              </Button>
            )}
          </fieldset>
        ))}
        <Button onClick={() => append(line)}>Another line</Button>
        <Fault text={fault} />
        <Button type="submit" main disabled={busy}>
          Save the order
        </Button>
      </form>
    </Panel>
  );
}
