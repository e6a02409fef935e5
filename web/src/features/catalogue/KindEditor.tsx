import type { Schemas } from "../../api/client";
import { keyOf } from "../../ui/catalogueKeys";
import { useEdit } from "../../ui/draft";
import { Button, Field, Select, TextInput } from "../../ui/form";
import { FeaturesEditor } from "../../ui/needs/FeaturesEditor";
import { NeedsEditor } from "../../ui/needs/NeedsEditor";
import { EntryForm } from "./EntryForm";
import { type Draft, TraitFields } from "./TraitFields";
import { draftOf, model, traitOf } from "./traitDraft";

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
