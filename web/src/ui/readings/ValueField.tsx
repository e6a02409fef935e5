import type { Control } from "react-hook-form";
import type { Schemas } from "../../api/client";
import { SelectField, TextField } from "../forms/fields";
import type { ReadingDraft } from "./readingDraft";

/** The value that was read: one of the choices, or a line in large type. */
export function ValueField({ control, fact }: { control: Control<ReadingDraft>; fact: Schemas["FactSheet"] }) {
  const shared = { control, name: "value" as const, label: `${fact.label}${fact.unit ? `, ${fact.unit}` : ""}` };
  if (fact.kind === "choice" || fact.kind === "yes/no")
    return (
      <SelectField
        {...shared}
        options={fact.kind === "choice" ? fact.choices : ["yes", "no"]}
        empty="Choose"
        required
      />
    );
  return (
    <TextField
      {...shared}
      inputMode={fact.kind === "number" ? "decimal" : "text"}
      autoComplete="off"
      spellCheck={false}
      required
      className="font-mono text-lg"
    />
  );
}
