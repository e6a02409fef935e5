import { useId } from "react";
import type { Schemas } from "../../api/client";
import { ColumnSelect } from "../fleet/Filters";
import type { Column } from "../fleet/question";
import { Check, Field, Select, TextInput } from "../form";
import type { Need, Test } from "./needKinds";
import { OwnField, SelectorFields, TraitOfParts, useKinds, ValueFields } from "./SelectorFields";
import { grades, useKits } from "./Sentence";
import { useKitWords } from "./words";

/** A fact of selected parts, with values or against a trait of the part itself. */
export function PartsTestFields({ test, owner, onChange }: { test: Test; owner: string; onChange: (t: Test) => void }) {
  const { traitsOf } = useKinds();
  const asked = traitsOf(test.of?.kind ?? "").find((t) => t.name === test.trait);
  const choices = asked?.kind === "yes/no" ? ["yes", "no"] : asked?.choices;
  const ops = useKitWords()?.ops ?? [];
  const count = ops.find((o) => o.op === test.op)?.least ?? 1;
  if (!test.of) return null;
  return (
    <div className="mt-2 space-y-2">
      <SelectorFields of={test.of} owner={owner} onChange={(of) => onChange({ ...test, of })} />
      <div className="flex flex-wrap items-center gap-2">
        <TraitOfParts test={test} onChange={onChange} />
        <Select
          aria-label="Comparison"
          className="max-w-48"
          value={test.op}
          onChange={(op) => onChange({ ...test, op, own: undefined, values: [] })}
          options={ops.map((o) => o.op)}
        />
        <OwnField test={test} owner={owner} onChange={onChange} />
        {!test.own && (
          <ValueFields test={test} unit={asked?.unit} choices={choices} count={count} onChange={onChange} />
        )}
        <Select
          aria-label="Decides from"
          className="max-w-36"
          value={test.least}
          onChange={(least) => onChange({ ...test, least })}
          options={grades}
        />
      </div>
    </div>
  );
}

export function Words({ need, onChange }: { need: Need; onChange: (n: Need) => void }) {
  const fields = [
    ["why", "Why", "why"],
    ["otherwise", "What would change a no", "what would change a no"],
    ["howTo", "How to find out", "how to find out, where it is not plain"],
    ["hazard", "Hazard", "hazard, if any"],
  ] as const;
  return (
    <div className="mt-2 grid gap-2 sm:grid-cols-2">
      <TextInput
        aria-label="The need in plain words"
        className="font-semibold sm:col-span-2"
        placeholder="in plain words"
        value={need.label}
        onChange={(label) => onChange({ ...need, label })}
      />
      {fields.map(([field, label, hint]) => (
        <TextInput
          key={field}
          aria-label={label}
          placeholder={hint}
          value={need[field] ?? ""}
          onChange={(v) => onChange({ ...need, [field]: v })}
        />
      ))}
      <Check
        label="Harmless: a claim may decide it"
        checked={need.harmless ?? false}
        onChange={(harmless) => onChange({ ...need, harmless })}
      />
    </div>
  );
}

export function FormulaFields({
  formula,
  columns,
  onChange,
  owner,
}: {
  formula: Schemas["Formula"];
  owner: string;
  columns: Column[];
  onChange: (f: Schemas["Formula"]) => void;
}) {
  const id = useId();
  return (
    <div className="mt-2 grid gap-2 sm:grid-cols-[1fr_9rem]">
      <Field
        label="Comparison"
        htmlFor={`${id}-formula`}
        hint={
          owner
            ? "Of each of these parts as part.trait, of the part itself as own.trait: part.watts / part.volts <= own.contact-amperes"
            : "Facts as position.trait, numbers with units, blanks around a minus: motor-e.shaft - bracket.thickness >= 8 mm"
        }
      >
        {owner && (
          <div className="mb-2">
            <SelectorFields
              of={formula.of ?? { kind: owner, relation: "itself" }}
              owner={owner}
              onChange={(of) => onChange({ ...formula, of })}
            />
          </div>
        )}
        <TextInput
          id={`${id}-formula`}
          className="font-mono"
          value={formula.text}
          onChange={(text) => onChange({ ...formula, text })}
        />
        <div className="mt-2">
          <ColumnSelect
            label="Put a fact in"
            columns={columns.filter((c) => c.kind === "number")}
            value=""
            empty="Put a fact in …"
            onChange={(key) => onChange({ ...formula, text: `${formula.text} ${key}`.trim() })}
          />
        </div>
      </Field>
      <Field label="Decides from" htmlFor={`${id}-least`}>
        <Select
          id={`${id}-least`}
          value={formula.least}
          onChange={(least) => onChange({ ...formula, least })}
          options={grades}
        />
      </Field>
    </div>
  );
}

/** Another kit that must be fitted; among "none of these", one that must not. It is known by the first part that it fits. */
export function KitField({ kit, onChange }: { kit: Schemas["KitRef"]; onChange: (k: Schemas["KitRef"]) => void }) {
  const kits = useKits();
  const partOf = (k?: Schemas["Kit"]) => k?.effects.find((e) => !e.from && e.model !== "none");
  return (
    <Select
      aria-label="The other kit"
      className="mt-2 max-w-96"
      value={kit.key}
      onChange={(key) => {
        const fits = partOf(kits.data?.find((k) => k.key === key));
        onChange({ key, slot: fits?.slot ?? "", model: fits?.model ?? "" });
      }}
      empty="Choose the kit that is fitted"
      options={(kits.data ?? []).filter(partOf).map((k) => [k.key, k.name] as const)}
    />
  );
}

export function TestFields({
  test,
  columns,
  onChange,
}: {
  test: Test;
  columns: Column[];
  onChange: (t: Test) => void;
}) {
  const key = test.trait === "model" ? (test.slot ?? "") : `${test.slot}.${test.trait}`;
  const column = columns.find((c) => c.key === key);
  const values = test.values ?? [];
  const ops = useKitWords()?.ops ?? [];
  const count = ops.find((o) => o.op === test.op)?.least ?? 1;
  return (
    <div className="mt-2 flex flex-wrap items-center gap-2">
      <ColumnSelect
        label="Fact"
        columns={columns}
        value={key}
        onChange={(k) => {
          const [slot = "", trait = "model"] = k.split(".");
          onChange({ ...test, slot, trait, values: [] });
        }}
      />
      <Select
        aria-label="Comparison"
        className="max-w-48"
        value={test.op}
        onChange={(op) => onChange({ ...test, op, values: ops.find((o) => o.op === op)?.most === 0 ? [] : values })}
        options={ops.map((o) => o.op)}
      />
      <ValueFields test={test} unit={column?.unit} choices={column?.choices} count={count} onChange={onChange} />
      <Select
        aria-label="Decides from"
        className="max-w-36"
        value={test.least}
        onChange={(least) => onChange({ ...test, least })}
        options={grades}
      />
    </div>
  );
}
