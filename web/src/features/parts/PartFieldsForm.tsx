import type { Schemas } from "../../api/client";
import { DayInput } from "../../ui/DayInput";
import { Field, TextInput } from "../../ui/form";
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

export function partFieldsOf(d: PartDraft): Schemas["PartFields"] {
  return { ...d, price: moneyOf(d.price) };
}

export function PartFieldsForm({ draft, onChange }: { draft: PartDraft; onChange: (d: PartDraft) => void }) {
  return (
    <div className="grid gap-4 sm:grid-cols-2">
      {labels.map(([key, label, hint]) => (
        <Field key={key} label={label} htmlFor={`part-${key}`} hint={hint}>
          {key === "boughtOn" ? (
            <DayInput id={`part-${key}`} value={draft[key]} onChange={(v) => onChange({ ...draft, [key]: v })} />
          ) : (
            <TextInput
              id={`part-${key}`}
              value={draft[key]}
              {...(key === "price" && moneyPattern)}
              onChange={(v) => onChange({ ...draft, [key]: v })}
            />
          )}
        </Field>
      ))}
    </div>
  );
}
