import type { Schemas } from "../../api/client";
import { Field, Select, TextInput } from "../../ui/form";

/** What is read off delivered parts, each beside what was advertised. */
export function FoundFields({
  fields,
  data,
  onChange,
}: {
  fields: readonly Schemas["FoundField"][];
  data: Schemas["Data"];
  onChange: (data: Schemas["Data"]) => void;
}) {
  const found = data.found ?? {};
  const set = (key: string, value: string) => onChange({ ...data, found: { ...found, [key]: value } });
  return (
    <fieldset className="border-2 border-line px-4 py-3">
      <legend className="px-1 font-semibold">Found on the parts that came</legend>
      <p className="mb-3 text-dim">
        Leave empty what you cannot read. What differs stays on record for the supplier, too.
      </p>
      <div className="grid gap-3 sm:grid-cols-2">
        {fields.map((f) => {
          const shared = {
            id: `found-${f.key}`,
            value: found[f.key] ?? "",
            onChange: (value: string) => set(f.key, value),
          };
          return (
            <Field
              key={f.key}
              label={`${f.label}${f.unit ? `, ${f.unit}` : ""}`}
              htmlFor={shared.id}
              hint={f.advertised ? `advertised: ${f.advertised}` : "nothing was advertised"}
            >
              {f.choices?.length ? (
                <Select {...shared} empty="not read" options={f.choices} />
              ) : (
                <TextInput {...shared} autoComplete="off" spellCheck={false} className="font-mono" />
              )}
            </Field>
          );
        })}
      </div>
    </fieldset>
  );
}
