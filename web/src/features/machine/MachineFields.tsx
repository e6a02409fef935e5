import type { Schemas } from "../../api/client";
import { DayInput } from "../../ui/DayInput";
import { Field, TextInput } from "../../ui/form";
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

export function fieldsOf(d: FieldsDraft): Fields {
  return { ...d, price: moneyOf(d.price) };
}

export function MachineFields({ fields, onChange }: { fields: FieldsDraft; onChange: (fields: FieldsDraft) => void }) {
  return fieldLabels.map(([key, label]) => (
    <Field key={key} label={label} htmlFor={`machine-${key}`}>
      {key === "boughtOn" ? (
        <DayInput id="machine-boughtOn" value={fields[key]} onChange={(v) => onChange({ ...fields, [key]: v })} />
      ) : (
        <TextInput
          id={`machine-${key}`}
          value={fields[key]}
          required={key === "name"}
          {...(key === "price" && moneyPattern)}
          onChange={(v) => onChange({ ...fields, [key]: v })}
        />
      )}
    </Field>
  ));
}
