import type { Control, FieldPathByValue, FieldValues } from "react-hook-form";
import type { Schemas } from "../../api/client";
import { DayField, TextField } from "../../ui/forms/fields";
import { moneyOf, moneyPattern } from "../../ui/money";

type Fields = Schemas["Fields"];

/** A machine's fields as they are typed. */
export type FieldsDraft = Record<
  "name" | "bay" | "maker" | "serial" | "note" | "supplier" | "price" | "boughtOn",
  string
>;

export const fieldLabels: [keyof FieldsDraft, string][] = [
  ["name", "Name"],
  ["bay", "Bay"],
  ["maker", "Maker and model of the machine"],
  ["serial", "Serial number"],
  ["note", "Note"],
  ["supplier", "Supplier"],
  ["price", "Price paid"],
  ["boughtOn", "Bought on"],
];

export function draftOf(f: Partial<Fields>): FieldsDraft {
  const { name = "", bay = "", maker = "", serial = "", note = "", supplier = "", price, boughtOn = "" } = f;
  return { name, bay, maker, serial, note, supplier, boughtOn, price: price === undefined ? "" : String(price) };
}

export function fieldsOf({ price, ...d }: FieldsDraft): Fields {
  return { ...d, price: moneyOf(price) };
}

/** The fields of a machine in a form that has them among its own. */
export function MachineFields<T extends FieldsDraft & FieldValues>({ control }: { control: Control<T> }) {
  return fieldLabels.map(([key, label]) => {
    const shared = { control, name: key as FieldPathByValue<T, string | undefined>, label };
    if (key === "boughtOn") return <DayField key={key} {...shared} />;
    return <TextField key={key} {...shared} required={key === "name"} {...(key === "price" && moneyPattern)} />;
  });
}
