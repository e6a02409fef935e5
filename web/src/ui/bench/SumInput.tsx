import type { Schemas } from "../../api/client";
import { Field, Select, TextArea, TextInput } from "../form";

/** One thing that a calculator asks for. */
export function SumInput({
  input,
  id,
  value,
  fault,
  onChange,
}: {
  input: Schemas["Input"];
  id: string;
  value: string;
  fault?: string;
  onChange: (value: string) => void;
}) {
  const label = `${input.label}${input.unit ? `, ${input.unit}` : ""}${input.optional ? " (if known)" : ""}`;
  if (input.choices)
    return (
      <Field label={label} htmlFor={id} hint={input.hint} fault={fault}>
        <Select
          id={id}
          value={value}
          onChange={onChange}
          options={input.choices.map((c) => [c.value, c.label] as const)}
        />
      </Field>
    );
  if (input.lines)
    return (
      <div className="sm:col-span-2">
        <Field label={label} htmlFor={id} hint={input.hint} fault={fault}>
          <TextArea id={id} rows={5} className="font-mono" spellCheck={false} value={value} onChange={onChange} />
        </Field>
      </div>
    );
  return (
    <Field label={label} htmlFor={id} hint={input.hint} fault={fault}>
      <TextInput
        id={id}
        className="font-mono text-lg"
        inputMode={input.unit === "mm²" ? "text" : "decimal"}
        autoComplete="off"
        value={value}
        onChange={onChange}
      />
    </Field>
  );
}
