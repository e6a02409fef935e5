import type { Schemas } from "../../api/client";
import { Field, Select, TextInput } from "../../ui/form";

/** What a part of a model is supposed to be, trait by trait: a claim of every machine that carries one. */
export function ModelDefaults({
  traits,
  defaults,
  onChange,
}: {
  traits: readonly Schemas["TraitDef"][];
  defaults: Readonly<Record<string, string>>;
  onChange: (defaults: Record<string, string>) => void;
}) {
  return (
    <fieldset className="grid gap-3 border-2 border-line px-4 py-3 sm:grid-cols-2">
      <legend className="px-1 font-semibold">Supposed to be (a claim, until somebody looks)</legend>
      {traits
        .filter((t) => t.name !== "model" && !t.superseded)
        .map((t) => {
          const shared = {
            id: `default-${t.name}`,
            value: defaults[t.name] ?? "",
            onChange: (v: string) => onChange({ ...defaults, [t.name]: v }),
          };
          return (
            <Field key={t.name} label={`${t.label}${t.unit ? `, ${t.unit}` : ""}`} htmlFor={shared.id}>
              {t.kind === "choice" || t.kind === "yes/no" ? (
                <Select
                  {...shared}
                  empty="not said"
                  options={t.kind === "choice" ? (t.choices ?? []) : ["yes", "no"]}
                />
              ) : (
                <TextInput {...shared} />
              )}
            </Field>
          );
        })}
    </fieldset>
  );
}
