import type { Schemas } from "../../api/client";
import { keyOf } from "../../ui/catalogueKeys";
import { useEdit } from "../../ui/draft";
import { Check, Field, Select, TextInput } from "../../ui/form";
import { EntryForm } from "./EntryForm";

export function SlotEditor({
  sheet,
  slot,
  version,
  onClose,
}: {
  sheet: Schemas["CatalogueSheet"];
  slot?: Schemas["Position"];
  version: number;
  onClose: () => void;
}) {
  const edit = useEdit(`slot-${slot?.key ?? "new"}`, version, {
    label: slot?.label ?? "",
    group: slot?.group ?? "Mods",
    kind: slot?.kind ?? "",
    serves: slot?.serves ?? "",
    n: slot?.n ?? 0,
    sometimes: slot ? (slot.sometimes ?? false) : true,
    superseded: slot?.superseded ?? "",
  });
  const { value: d, set } = edit;
  const groups = [...new Set(sheet.catalogue.slots.map((s) => s.group))];
  return (
    <EntryForm
      title={slot ? `Position ${slot.label}` : "A new usual position"}
      section="slot"
      entryKey={slot?.key}
      edit={edit}
      body={() => ({ slot: { key: slot?.key ?? keyOf(d.label), ...d } })}
      onClose={onClose}
    >
      <Field label="Name" htmlFor="slot-label" hint="Such as Driver Z4, or Hotend 3">
        <TextInput id="slot-label" required value={d.label} onChange={(label) => set({ ...d, label })} />
      </Field>
      <Field label="Holds parts of the kind" htmlFor="slot-kind">
        <Select
          id="slot-kind"
          required
          value={d.kind}
          onChange={(kind) => set({ ...d, kind })}
          empty="Choose"
          options={sheet.catalogue.kinds.map((k) => [k.key, k.label] as const)}
        />
      </Field>
      <Field label="Serves" htmlFor="slot-serves" hint="axis z, head 2, bed, frame, enclosure, electronics or shop">
        <TextInput id="slot-serves" list="slot-places" value={d.serves} onChange={(serves) => set({ ...d, serves })} />
        <datalist id="slot-places">
          {[...new Set(sheet.catalogue.slots.map((s) => s.serves ?? ""))].filter(Boolean).map((p) => (
            <option key={p} value={p} />
          ))}
        </datalist>
      </Field>
      <Field label="Group on the sheet" htmlFor="slot-group">
        <TextInput
          id="slot-group"
          required
          list="slot-groups"
          value={d.group}
          onChange={(group) => set({ ...d, group })}
        />
        <datalist id="slot-groups">
          {groups.map((g) => (
            <option key={g} value={g} />
          ))}
        </datalist>
      </Field>
      <Check
        label="Only some machines have it: a new machine begins without it"
        checked={d.sometimes}
        onChange={(sometimes) => set({ ...d, sometimes })}
      />
      {slot && (
        <Field label="Superseded by" htmlFor="slot-superseded" hint="Stays on record and is offered no more">
          <Select
            id="slot-superseded"
            value={d.superseded}
            onChange={(superseded) => set({ ...d, superseded })}
            empty="in force"
            options={sheet.catalogue.slots
              .filter((s) => s.kind === d.kind && s.key !== slot.key)
              .map((s) => [s.key, s.label] as const)}
          />
        </Field>
      )}
    </EntryForm>
  );
}
