import type { Schemas } from "../api/client";
import { FeaturesEditor } from "../kits/FeaturesEditor";
import { NeedsEditor } from "../kits/NeedsEditor";
import { useEdit } from "../ui/draft";
import { Button, Check, Field, Select, TextInput } from "../ui/form";
import { OptionalNumber } from "../ui/NumberInput";
import { EntryForm } from "./EntryForm";
import { keyOf, listOf } from "./keys";

type Trait = Schemas["TraitDef"];
type Draft = {
  name: string; // empty for a new one
  label: string;
  kind: Trait["kind"];
  unit: string;
  choices: string;
  labels: Record<string, string>;
  min?: number;
  max?: number;
  inspection: string;
  grade: string;
  safety: string;
  hint: string;
  budget: boolean;
  superseded: string;
};

const kinds = ["number", "choice", "yes/no", "text"] as const;

function draftOf(t: Trait): Draft {
  return {
    name: t.name,
    label: t.label,
    kind: t.kind,
    unit: t.unit ?? "",
    choices: (t.choices ?? []).join("; "),
    labels: { ...t.labels },
    min: t.min,
    max: t.max,
    inspection: t.findBy?.[0]?.inspection ?? "",
    grade: t.findBy?.[0]?.grade ?? "observed",
    safety: t.safety ?? "",
    hint: t.hint ?? "",
    budget: t.budget ?? false,
    superseded: t.superseded ?? "",
  };
}

/** The first way to find a trait is edited here; further ones stay as they are. */
function traitOf(d: Draft, before?: Trait): Trait {
  const first = d.inspection ? [{ inspection: d.inspection, grade: d.grade }] : [];
  const number = d.kind === "number";
  return {
    ...before,
    name: d.name || keyOf(d.label),
    label: d.label,
    kind: d.kind,
    unit: number ? d.unit : "",
    choices: d.kind === "choice" ? listOf(d.choices, /\s*;\s*/) : [],
    min: number ? (d.min ?? 0) : 0,
    max: number ? (d.max ?? 0) : 0,
    findBy: [...first, ...(before?.findBy ?? []).slice(1)],
    safety: d.safety,
    hint: d.hint,
    budget: d.budget,
    superseded: d.superseded,
    possible: number ? before?.possible : undefined,
    nominal: number ? before?.nominal : undefined,
    labels: d.kind === "choice" ? Object.fromEntries(Object.entries(d.labels).filter(([, v]) => v.trim())) : undefined,
  };
}

const model: Trait = {
  name: "model",
  label: "model",
  kind: "text",
  findBy: [{ inspection: "outside", grade: "observed" }],
};

export function KindEditor({
  sheet,
  kind,
  version,
  onClose,
}: {
  sheet: Schemas["CatalogueSheet"];
  kind?: Schemas["PartKind"];
  version: number;
  onClose: () => void;
}) {
  const edit = useEdit(`kind-${kind?.key ?? "new"}`, version, {
    label: kind?.label ?? "",
    superseded: kind?.superseded ?? "",
    like: kind?.like ?? "",
    traits: (kind?.traits ?? [model]).map(draftOf),
    needs: [...(kind?.needs ?? [])],
    features: [...(kind?.features ?? [])],
  });
  const { value: d, set } = edit;
  const put = (i: number, t: Draft) => set({ ...d, traits: d.traits.map((x, k) => (k === i ? t : x)) });
  return (
    <EntryForm
      title={kind ? `Kind ${kind.label}` : "A new kind of part"}
      section="kind"
      entryKey={kind?.key}
      edit={edit}
      body={() => ({
        kind: {
          ...kind,
          key: kind?.key ?? keyOf(d.label),
          label: d.label,
          superseded: d.superseded,
          like: d.like,
          needs: d.needs,
          features: d.features.length > 0 ? d.features : undefined,
          traits: d.traits.map((t) =>
            traitOf(
              t,
              kind?.traits.find((b) => b.name === t.name),
            ),
          ),
        },
      })}
      onClose={onClose}
    >
      <Field label="Name" htmlFor="kind-label">
        <TextInput id="kind-label" required value={d.label} onChange={(label) => set({ ...d, label })} />
      </Field>
      <Field
        label="Like"
        htmlFor="kind-like"
        hint="Its traits, rules, sums and calibrations then hold for this kind too: an enclosure heater is like a heater"
      >
        <Select
          id="kind-like"
          value={d.like}
          onChange={(like) => set({ ...d, like })}
          empty="no other kind"
          options={sheet.catalogue.kinds.filter((k) => k.key !== kind?.key).map((k) => [k.key, k.label] as const)}
        />
      </Field>
      <p className="text-dim">Units: {sheet.units}.</p>
      {d.traits.map((t, i) => (
        <TraitFields
          // biome-ignore lint/suspicious/noArrayIndexKey: a new trait has no name yet
          key={i}
          id={`trait-${i}`}
          t={t}
          inspections={sheet.catalogue.inspections}
          others={d.traits.filter((x) => x !== t && x.name).map((x) => [x.name, x.label] as const)}
          onChange={(x) => put(i, x)}
          onDrop={() => set({ ...d, traits: d.traits.filter((_, k) => k !== i) })}
        />
      ))}
      <Button
        onClick={() => set({ ...d, traits: [...d.traits, { ...draftOf(model), name: "", label: "", kind: "number" }] })}
      >
        Add a trait
      </Button>
      {kind && (
        <NeedsEditor kind={kind.key} needs={d.needs} inherited={[]} onChange={(needs) => set({ ...d, needs })} />
      )}
      {kind && d.features.length > 0 && (
        <FeaturesEditor kind={kind.key} features={d.features} onChange={(features) => set({ ...d, features })} />
      )}
    </EntryForm>
  );
}

function TraitFields({
  id,
  t,
  inspections,
  others,
  onChange,
  onDrop,
}: {
  id: string;
  t: Draft;
  inspections: readonly Schemas["Inspection"][];
  others: (readonly [string, string])[];
  onChange: (t: Draft) => void;
  onDrop: () => void;
}) {
  const set = (change: Partial<Draft>) => onChange({ ...t, ...change });
  const fixed = t.name === "model";
  return (
    <details className="border-2 border-line px-4 py-2" open={!t.name}>
      <summary className="min-h-11 cursor-pointer py-2 font-semibold">
        {t.label || "a new trait"}{" "}
        <span className="font-normal text-dim">
          {t.kind} {t.unit} {t.superseded && `superseded by ${t.superseded}`} {t.safety && "▲ safety"}
        </span>
      </summary>
      <div className="grid gap-3 sm:grid-cols-2">
        <Field label="What it is called" htmlFor={`${id}-label`}>
          <TextInput id={`${id}-label`} required value={t.label} onChange={(label) => set({ label })} />
        </Field>
        <Field label="Value" htmlFor={`${id}-kind`}>
          <Select
            id={`${id}-kind`}
            disabled={fixed}
            value={t.kind}
            onChange={(k) => set({ kind: k as Trait["kind"] })}
            options={kinds}
          />
        </Field>
        {t.kind === "number" && (
          <>
            <Field label="Unit" htmlFor={`${id}-unit`}>
              <TextInput id={`${id}-unit`} value={t.unit} onChange={(unit) => set({ unit })} />
            </Field>
            <div className="grid grid-cols-2 gap-3">
              <Field label="Least" htmlFor={`${id}-min`}>
                <OptionalNumber id={`${id}-min`} unit={t.unit} value={t.min} onChange={(min) => set({ min })} />
              </Field>
              <Field label="Most" htmlFor={`${id}-max`}>
                <OptionalNumber id={`${id}-max`} unit={t.unit} value={t.max} onChange={(max) => set({ max })} />
              </Field>
            </div>
          </>
        )}
        {t.kind === "choice" && (
          <div className="sm:col-span-2">
            <Field label="Choices" htmlFor={`${id}-choices`} hint="with semicolons between them">
              <TextInput id={`${id}-choices`} required value={t.choices} onChange={(choices) => set({ choices })} />
            </Field>
          </div>
        )}
        {t.kind === "choice" && t.name && listOf(t.choices, /\s*;\s*/).length > 0 && (
          <details className="sm:col-span-2">
            <summary className="min-h-10 cursor-pointer py-2">
              Call a choice otherwise here; verdicts stay as they are
            </summary>
            <div className="grid gap-3 sm:grid-cols-2">
              {listOf(t.choices, /\s*;\s*/).map((code) => (
                <Field key={code} label={code} htmlFor={`${id}-called-${code}`}>
                  <TextInput
                    id={`${id}-called-${code}`}
                    placeholder={code}
                    value={t.labels[code] ?? ""}
                    onChange={(v) => set({ labels: { ...t.labels, [code]: v } })}
                  />
                </Field>
              ))}
            </div>
          </details>
        )}
        <Field label="Found by" htmlFor={`${id}-find`}>
          <Select
            id={`${id}-find`}
            value={t.inspection}
            onChange={(inspection) => set({ inspection })}
            empty="no inspection"
            options={inspections.map((in_) => [in_.key, `${in_.title}, ${in_.minutes} min`] as const)}
          />
        </Field>
        <Field label="which earns" htmlFor={`${id}-grade`}>
          <Select
            id={`${id}-grade`}
            value={t.grade}
            onChange={(grade) => set({ grade })}
            options={["claimed", "marked", "observed", "proven"]}
          />
        </Field>
        <div className="sm:col-span-2">
          <Field
            label="Safety: what may happen while it is not known"
            htmlFor={`${id}-safety`}
            hint="Empty when nothing; else it is asked first"
          >
            <TextInput id={`${id}-safety`} value={t.safety} onChange={(safety) => set({ safety })} />
          </Field>
        </div>
        <div className="sm:col-span-2">
          <Field label="Only a hint, because" htmlFor={`${id}-hint`} hint="Empty when it proves something">
            <TextInput id={`${id}-hint`} value={t.hint} onChange={(hint) => set({ hint })} />
          </Field>
        </div>
        <Check label="A capacity: other parts use it up" checked={t.budget} onChange={(budget) => set({ budget })} />
        {t.name && !fixed && (
          <Field label="Superseded by" htmlFor={`${id}-superseded`}>
            <Select
              id={`${id}-superseded`}
              value={t.superseded}
              onChange={(superseded) => set({ superseded })}
              empty="in force"
              options={others}
            />
          </Field>
        )}
      </div>
      {!fixed && (
        <Button danger className="mt-3" onClick={onDrop}>
          Remove this trait
        </Button>
      )}
    </details>
  );
}
