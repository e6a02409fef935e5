import type { Schemas } from "../../api/client";
import { keyOf, listOf } from "../../ui/catalogueKeys";
import type { Draft } from "./TraitFields";

export type Trait = Schemas["TraitDef"];

export function draftOf(t: Trait): Draft {
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
export function traitOf(d: Draft, before?: Trait): Trait {
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

export const model: Trait = {
  name: "model",
  label: "model",
  kind: "text",
  findBy: [{ inspection: "outside", grade: "observed" }],
};
