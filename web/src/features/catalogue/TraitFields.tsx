import type { Schemas } from "../../api/client";
import { listOf } from "../../ui/catalogueKeys";
import { Button, Check, Field, Select, TextInput } from "../../ui/form";
import { OptionalNumber } from "../../ui/NumberInput";
import type { Trait } from "./traitDraft";

export type Draft = {
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

export const kinds = ["number", "choice", "yes/no", "text"] as const;

export function TraitFields({
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
