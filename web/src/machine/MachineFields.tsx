import type { Schemas } from "../api/client";
import { Field, TextInput } from "../parts/form";

type Fields = Schemas["Fields"];

export const noFields: Fields = { name: "", bay: "", maker: "", serial: "", note: "" };

export const fieldLabels: [keyof Omit<Fields, "$schema">, string][] = [
  ["name", "Name"],
  ["bay", "Bay"],
  ["maker", "Maker and model of the machine"],
  ["serial", "Serial number"],
  ["note", "Note"],
];

export function MachineFields({ fields, onChange }: { fields: Fields; onChange: (fields: Fields) => void }) {
  return fieldLabels.map(([key, label]) => (
    <Field key={key} label={label} htmlFor={`machine-${key}`}>
      <TextInput
        id={`machine-${key}`}
        value={fields[key]}
        required={key === "name"}
        onChange={(v) => onChange({ ...fields, [key]: v })}
      />
    </Field>
  ));
}
