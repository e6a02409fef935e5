import { useQuery } from "@tanstack/react-query";
import { useId, useState } from "react";
import { api, type Schemas, unwrap } from "../api/client";
import { ColumnSelect } from "../fleet/Filters";
import type { Column } from "../fleet/question";
import { gradeWords } from "../ui/badges";
import { Button, Check, Field, Select, TextInput } from "../ui/form";
import { blankFurther, FurtherEditor } from "./FurtherEditor";
import { OwnField, SelectorFields, selectorWords, TraitOfParts, useKinds, ValueFields } from "./SelectorFields";
import { useKitWords } from "./words";

type Need = Schemas["Requirement"];
type Test = Schemas["Test"];

const grades = gradeWords.map(([g]) => g);
const groupWords = { all: "all of these", any: "at least one of these", none: "none of these" } as const;
type Group = keyof typeof groupWords;

function groupOf(n: Need): Group | undefined {
  return (["all", "any", "none"] as const).find((g) => n[g] !== undefined);
}

type Kind = "fact" | "parts" | "sum" | "kit" | "further" | "group";

const blankOf: Record<Kind, Need> = {
  fact: { label: "", test: { slot: "mainboard", trait: "model", op: "present", values: [], least: "observed" } },
  parts: {
    label: "",
    test: { of: { kind: "probe", every: false }, trait: "model", op: "present", values: [], least: "marked" },
  },
  sum: { label: "", formula: { text: "", least: "observed" } },
  kit: { label: "", kit: { key: "", slot: "", model: "" } },
  further: { label: "", further: blankFurther },
  group: { label: "", any: [] },
};

const addWords: Record<Kind, string> = {
  fact: "Add a fact",
  parts: "Add a fact of parts of a kind",
  sum: "Add a sum",
  kit: "Add another kit",
  further: "Add an additional change",
  group: "Add a group",
};

/** A need in plain words: a fact compared, a sum of facts, or a group of needs. It is read as a sentence until it is changed. */
export function NeedEditor({
  need,
  columns,
  onChange,
  onDrop,
  root = false,
  owner = "",
}: {
  need: Need;
  columns: Column[];
  /** The kind of the part that needs it as long as it is fitted; empty for a kit. */
  owner?: string;
  onChange: (n: Need) => void;
  onDrop?: () => void;
  root?: boolean;
}) {
  const group = groupOf(need);
  const parts = group ? (need[group] ?? []) : [];
  const withParts = (list: Need[]) => onChange({ ...need, [group ?? "all"]: list });
  const [open, setOpen] = useState(need.label === "" || root);
  const name = need.label || "this need";
  return (
    <div className={root ? "" : "border-l-4 border-line bg-leaf px-3 py-2"}>
      {!root && (
        <div className="flex items-start justify-between gap-3">
          <div className="min-w-0 pt-1.5">
            <b>{need.label || "Not in words yet"}</b>
            <span className="block text-dim">
              <Sentence need={need} columns={columns} />
            </span>
            {!open && need.why && <span className="block text-sm text-dim">{need.why}</span>}
            {!open && need.hazard && <span className="block text-sm text-look">▲ {need.hazard}</span>}
          </div>
          <Button
            aria-expanded={open}
            aria-label={`${open ? "Close" : "Change"} ${name}`}
            onClick={() => setOpen(!open)}
          >
            {open ? "Close" : "Change"}
          </Button>
        </div>
      )}
      {open && !root && <Words need={need} onChange={onChange} />}
      {open && group && (
        <Select
          aria-label="Group"
          className="my-2 max-w-64"
          value={group}
          onChange={(g) => {
            const { [group]: list, ...rest } = need;
            onChange({ ...rest, [g]: list });
          }}
          options={Object.entries(groupWords)}
        />
      )}
      {group && (
        <ul className="mt-2 space-y-2">
          {parts.map((p, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a need has no identity but its place
            <li key={i}>
              <NeedEditor
                need={p}
                owner={owner}
                columns={columns}
                onChange={(n) => withParts(parts.map((x, k) => (k === i ? n : x)))}
                onDrop={() => withParts(parts.filter((_, k) => k !== i))}
              />
            </li>
          ))}
        </ul>
      )}
      {open && group && (
        <div className="mt-3 flex flex-wrap gap-2">
          {(Object.keys(blankOf) as Kind[])
            .filter((k) => (k !== "further" || group !== "none") && (!owner || !["kit", "further", "fact"].includes(k)))
            .map((k) => (
              <Button key={k} onClick={() => withParts([...parts, blankOf[k]])}>
                {addWords[k]}
              </Button>
            ))}
        </div>
      )}
      {open && need.test && !need.test.of && (
        <TestFields test={need.test} columns={columns} onChange={(test) => onChange({ ...need, test })} />
      )}
      {open && need.test?.of && (
        <PartsTestFields test={need.test} owner={owner} onChange={(test) => onChange({ ...need, test })} />
      )}
      {open && owner && !group && need.test && (
        <div className="mt-2 flex flex-wrap gap-2">
          <Button onClick={() => onChange({ ...need, test: undefined, any: [need] })}>Make it one of several</Button>
          <Button onClick={() => onChange({ ...need, test: undefined, none: [need] })}>Make it the opposite</Button>
          <Button
            onClick={() =>
              onChange({
                ...need,
                test: undefined,
                formula: { text: "", least: "marked", of: need.test?.of },
              })
            }
          >
            Make it a sum
          </Button>
        </div>
      )}
      {open && need.formula && (
        <FormulaFields
          formula={need.formula}
          owner={owner}
          columns={columns}
          onChange={(formula) => onChange({ ...need, formula })}
        />
      )}
      {open && need.further && (
        <FurtherEditor further={need.further} onChange={(further) => onChange({ ...need, further })} />
      )}
      {open && need.kit && <KitField kit={need.kit} onChange={(kit) => onChange({ ...need, kit })} />}
      {open && onDrop && (
        <Button danger className="mt-2" onClick={onDrop}>
          Remove this need
        </Button>
      )}
    </div>
  );
}

/** A need as it is read: what is compared with what, and from which evidence on it decides. */
function Sentence({ need, columns }: { need: Need; columns: Column[] }) {
  const group = groupOf(need);
  if (group) return <>{groupWords[group]}:</>;
  if (need.test?.of) return <PartsSentence test={need.test} />;
  if (need.test) {
    const { slot, trait, op, values, least } = need.test;
    const column = columns.find((c) => c.key === (trait === "model" ? slot : `${slot}.${trait}`));
    const said = (values ?? []).join(op === "between" ? " and " : ", ");
    return (
      <>
        {[column?.label ?? `${slot}.${trait}`, op, said, said && column?.unit].filter(Boolean).join(" ")}
        <Least grade={least} />
      </>
    );
  }
  if (need.formula)
    return (
      <>
        {need.formula.of && <OfWords of={need.formula.of} />}
        {inWords(need.formula.text, columns)}
        <Least grade={need.formula.least} />
      </>
    );
  if (need.further)
    return (
      <>
        with {need.further.title || "an additional change"}, price {need.further.price}, {need.further.minutes} min
      </>
    );
  return <KitSentence kit={need.kit} />;
}

const useKits = () => useQuery({ queryKey: ["kits"], queryFn: () => unwrap(api.GET("/api/kits")) });

function KitSentence({ kit }: { kit?: Schemas["KitRef"] }) {
  const kits = useKits();
  if (!kit?.key) return <>another kit, to be chosen</>;
  return <>the kit {kits.data?.find((k) => k.key === kit.key)?.name ?? kit.key} is fitted</>;
}

/** A comparison with the names of its facts, and the signs as they are written by hand. */
function inWords(formula: string, columns: Column[]) {
  return formula
    .replace(/[a-z][a-z0-9-]*\.[a-z][a-z0-9-]*/g, (key) => columns.find((c) => c.key === key)?.label ?? key)
    .replace(/\s*\*\s*/g, " × ")
    .replace(/\s\/\s/g, " ÷ ")
    .replace(/\s-\s/g, " − ")
    .replace(/<=/g, "≤")
    .replace(/>=/g, "≥");
}

function Least({ grade }: { grade: string }) {
  return grade === "claimed" ? null : <>, {grade} at least</>;
}

/** A fact of selected parts in words. */
function PartsSentence({ test }: { test: Test }) {
  const { kinds, traitsOf } = useKinds();
  if (!test.of) return null;
  const asked = traitsOf(test.of.kind).find((t) => t.name === test.trait);
  const said = (test.values ?? []).join(test.op === "between" ? " and " : ", ");
  return (
    <>
      {[
        `${selectorWords(test.of, kinds)}:`,
        test.trait === "model" && (test.op === "present" || test.op === "absent") ? "" : (asked?.label ?? test.trait),
        test.op,
        test.own ? `its own ${test.own}` : said,
        said && asked?.unit,
      ]
        .filter(Boolean)
        .join(" ")}
      <Least grade={test.least} />
    </>
  );
}

function OfWords({ of }: { of: Schemas["Selector"] }) {
  const { kinds } = useKinds();
  return <>{selectorWords(of, kinds)}: </>;
}

/** A fact of selected parts, with values or against a trait of the part itself. */
function PartsTestFields({ test, owner, onChange }: { test: Test; owner: string; onChange: (t: Test) => void }) {
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

function Words({ need, onChange }: { need: Need; onChange: (n: Need) => void }) {
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

function FormulaFields({
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
function KitField({ kit, onChange }: { kit: Schemas["KitRef"]; onChange: (k: Schemas["KitRef"]) => void }) {
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

function TestFields({ test, columns, onChange }: { test: Test; columns: Column[]; onChange: (t: Test) => void }) {
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
