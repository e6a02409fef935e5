import type { Control, FieldPathByValue, FieldValues } from "react-hook-form";
import type { Schemas } from "../../api/client";
import { DayField, TextField } from "../../ui/forms/fields";
import { moneyOf, moneyPattern } from "../../ui/money";

export type PartDraft = Record<
  "tag" | "serial" | "supplier" | "price" | "boughtOn" | "note" | "shelf" | "lot",
  string
> & { forMachine?: number };

const labels: [Exclude<keyof PartDraft, "forMachine">, string, string?][] = [
  ["tag", "Own tag", "What the shop's label on it says"],
  ["serial", "Serial number"],
  ["supplier", "Supplier"],
  ["price", "Price paid"],
  ["boughtOn", "Bought on"],
  ["shelf", "Shelf", "Where it lies while it is in no machine"],
  ["lot", "Lot", "The maker's, or the delivery's"],
  ["note", "Note"],
];

export function partDraftOf(p: Partial<Schemas["PartFields"]>): PartDraft {
  const { tag = "", serial = "", supplier = "", price, boughtOn = "", note = "", shelf = "", lot = "", forMachine } = p;
  return {
    tag,
    serial,
    supplier,
    boughtOn,
    note,
    shelf,
    lot,
    forMachine,
    price: price === undefined ? "" : String(price),
  };
}

export function partFieldsOf({ price, ...d }: PartDraft): Schemas["PartFields"] {
  return { ...d, price: moneyOf(price) };
}

/** The fields of a part in a form that has them among its own. */
export function PartFieldsForm<T extends PartDraft & FieldValues>({ control }: { control: Control<T> }) {
  return (
    <div className="grid gap-4 sm:grid-cols-2">
      {labels.map(([key, label, hint]) => {
        const shared = { control, name: key as FieldPathByValue<T, string | undefined>, label, hint };
        if (key === "boughtOn") return <DayField key={key} {...shared} />;
        return <TextField key={key} {...shared} {...(key === "price" && moneyPattern)} />;
      })}
    </div>
  );
}
