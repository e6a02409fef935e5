import { useQuery } from "@tanstack/react-query";
import { api, type Schemas, take } from "../api/client";
import { ColumnSelect } from "../fleet/Filters";
import type { Column } from "../fleet/question";
import { Button, Field, Select, TextInput } from "../parts/form";
import { gradeWords } from "../parts/marks";
import { useKitWords } from "./words";

type Need = Schemas["Requirement"];
type Test = Schemas["Test"];

const grades = gradeWords.map(([g]) => g);
const groupWords = { all: "all of these", any: "at least one of these", none: "none of these" } as const;
type Group = keyof typeof groupWords;

function groupOf(n: Need): Group | undefined {
  return (["all", "any", "none"] as const).find((g) => n[g] !== undefined);
}

/** A need in plain words: a fact compared, a sum of facts, or a group of needs. */
export function NeedEditor({
  need,
  columns,
  onChange,
  onDrop,
  root = false,
}: {
  need: Need;
  columns: Column[];
  onChange: (n: Need) => void;
  onDrop?: () => void;
  root?: boolean;
}) {
  const group = groupOf(need);
  const parts = group ? (need[group] ?? []) : [];
  const withParts = (list: Need[]) => onChange({ ...need, [group ?? "all"]: list });
  const words = (
    <div className="grid gap-2 sm:grid-cols-2">
      <TextInput
        aria-label="The need in plain words"
        className="font-semibold sm:col-span-2"
        placeholder="in plain words"
        value={need.label}
        onChange={(label) => onChange({ ...need, label })}
      />
      <TextInput
        aria-label="Why"
        placeholder="why"
        value={need.why ?? ""}
        onChange={(why) => onChange({ ...need, why })}
      />
      <TextInput
        aria-label="What would change a no"
        placeholder="what would change a no"
        value={need.otherwise ?? ""}
        onChange={(otherwise) => onChange({ ...need, otherwise })}
      />
      <TextInput
        aria-label="How to find out"
        placeholder="how to find out, where it is not plain"
        value={need.howTo ?? ""}
        onChange={(howTo) => onChange({ ...need, howTo })}
      />
      <TextInput
        aria-label="Hazard"
        placeholder="hazard, if any"
        value={need.hazard ?? ""}
        onChange={(hazard) => onChange({ ...need, hazard })}
      />
    </div>
  );
  return (
    <div className={root ? "" : "border-l-4 border-line bg-leaf px-3 py-3"}>
      {!root && words}
      {group && (
        <>
          <div className="my-2 flex flex-wrap items-center gap-2">
            <Select
              aria-label="Group"
              className="max-w-64"
              value={group}
              onChange={(g) => {
                const { [group]: list, ...rest } = need;
                onChange({ ...rest, [g]: list });
              }}
              options={Object.entries(groupWords)}
            />
            {onDrop && (
              <Button danger onClick={onDrop}>
                Drop
              </Button>
            )}
          </div>
          <ul className="space-y-3">
            {parts.map((p, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a need has no identity but its place
              <li key={i}>
                <NeedEditor
                  need={p}
                  columns={columns}
                  onChange={(n) => withParts(parts.map((x, k) => (k === i ? n : x)))}
                  onDrop={() => withParts(parts.filter((_, k) => k !== i))}
                />
              </li>
            ))}
          </ul>
          <div className="mt-3 flex flex-wrap gap-2">
            <Button
              onClick={() =>
                withParts([
                  ...parts,
                  { label: "", test: { slot: "mainboard", trait: "model", op: "present", values: [], least: "read" } },
                ])
              }
            >
              Add a fact
            </Button>
            <Button onClick={() => withParts([...parts, { label: "", formula: { text: "", least: "read" } }])}>
              Add a sum
            </Button>
            <Button onClick={() => withParts([...parts, { label: "", kit: { key: "", slot: "", model: "" } }])}>
              Add another kit
            </Button>
            <Button onClick={() => withParts([...parts, { label: "", any: [] }])}>Add a group</Button>
          </div>
        </>
      )}
      {need.test && <TestFields test={need.test} columns={columns} onChange={(test) => onChange({ ...need, test })} />}
      {need.formula && (
        <div className="mt-2 grid gap-2 sm:grid-cols-[1fr_9rem]">
          <Field
            label="Comparison"
            htmlFor={`formula-${need.label}`}
            hint="Facts as slot.trait, numbers with units, blanks around a minus: motor-e.shaft - bracket.thickness >= 8 mm"
          >
            <TextInput
              id={`formula-${need.label}`}
              className="font-mono"
              value={need.formula.text}
              onChange={(text) => onChange({ ...need, formula: { text, least: need.formula?.least ?? "read" } })}
            />
          </Field>
          <Field label="Decides from" htmlFor={`least-${need.label}`}>
            <Select
              id={`least-${need.label}`}
              value={need.formula.least}
              onChange={(least) => onChange({ ...need, formula: { text: need.formula?.text ?? "", least } })}
              options={grades}
            />
          </Field>
        </div>
      )}
      {need.further && (
        <p className="mt-2">
          Further change: <b>{need.further.title}</b>, price {need.further.price}, {need.further.minutes} min
        </p>
      )}
      {need.kit && <KitField kit={need.kit} onChange={(kit) => onChange({ ...need, kit })} />}
      {!group && onDrop && (
        <Button danger className="mt-2" onClick={onDrop}>
          Drop this need
        </Button>
      )}
    </div>
  );
}

/** Another kit that must be fitted; among "none of these", one that must not. */
function KitField({ kit, onChange }: { kit: Schemas["KitRef"]; onChange: (k: Schemas["KitRef"]) => void }) {
  const kits = useQuery({ queryKey: ["kits"], queryFn: () => take(api.GET("/api/kits")) });
  return (
    <Select
      aria-label="The other kit"
      className="mt-2 max-w-96"
      value={kit.key}
      onChange={(key) => {
        const fits = kits.data?.find((k) => k.key === key)?.effects[0];
        onChange({ key, slot: fits?.slot ?? "", model: fits?.model ?? "" });
      }}
      empty="Choose the kit that is fitted"
      options={(kits.data ?? []).filter((k) => k.effects.length > 0).map((k) => [k.key, k.name] as const)}
    />
  );
}

function TestFields({ test, columns, onChange }: { test: Test; columns: Column[]; onChange: (t: Test) => void }) {
  const key = test.trait === "model" ? test.slot : `${test.slot}.${test.trait}`;
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
      {Array.from({ length: count }, (_, i) =>
        column?.choices?.length && test.op === "equal" ? (
          <Select
            // biome-ignore lint/suspicious/noArrayIndexKey: a value has no identity but its place
            key={i}
            aria-label={`Value ${i + 1}`}
            className="max-w-56"
            value={values[i] ?? ""}
            onChange={(v) => onChange({ ...test, values: [v] })}
            empty="Choose"
            options={column.choices}
          />
        ) : (
          <TextInput
            // biome-ignore lint/suspicious/noArrayIndexKey: a value has no identity but its place
            key={i}
            aria-label={`Value ${i + 1}`}
            className="w-40"
            placeholder={test.op === "one of" ? "a; b; c" : (column?.unit ?? "")}
            value={test.op === "one of" ? values.join("; ") : (values[i] ?? "")}
            onChange={(v) =>
              onChange({
                ...test,
                values:
                  test.op === "one of"
                    ? v.split(/\s*;\s*/)
                    : Array.from({ length: count }, (_, k) => (k === i ? v : (values[k] ?? ""))),
              })
            }
          />
        ),
      )}
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
