import type { Schemas } from "../../api/client";
import { useEdit } from "../../ui/draft";
import { Check, Field, Select, TextInput } from "../../ui/form";
import { NeedsEditor } from "../../ui/needs/NeedsEditor";
import { UsesEditor } from "../../ui/needs/UsesEditor";
import { EntryForm } from "./EntryForm";
import { ModelDefaults } from "./ModelDefaults";
import { ModelPorts } from "./ModelPorts";
import { draftOf, inherited, modelOf } from "./modelDraft";

export function ModelEditor({
  sheet,
  model,
  version,
  onClose,
}: {
  sheet: Schemas["CatalogueSheet"];
  model?: Schemas["Model"];
  version: number;
  onClose: () => void;
}) {
  const edit = useEdit(`model-${model ? `${model.kind}-${model.name}` : "new"}`, version, draftOf(model));
  const { value: d, set } = edit;
  const kind = sheet.catalogue.kinds.find((k) => k.key === d.kind);
  const others = sheet.catalogue.models.filter((m) => m.kind === d.kind && m.name !== model?.name).map((m) => m.name);
  return (
    <EntryForm
      title={model ? model.name : "A new model"}
      section="model"
      entryKey={model && `${model.kind}/${model.name.toLowerCase()}`}
      edit={edit}
      body={() => ({ was: model?.name, model: modelOf(d, model) })}
      onClose={onClose}
    >
      <div className="grid gap-3 sm:grid-cols-2">
        <Field label="Kind of part" htmlFor="model-kind">
          <Select
            id="model-kind"
            required
            disabled={Boolean(model)}
            value={d.kind}
            onChange={(k) => set({ ...d, kind: k })}
            empty="Choose"
            options={sheet.catalogue.kinds.map((k) => [k.key, k.label] as const)}
          />
        </Field>
        <Field label="Name" htmlFor="model-name">
          <TextInput id="model-name" required value={d.name} onChange={(name) => set({ ...d, name })} />
        </Field>
        <Field
          label="Also called"
          htmlFor="model-aliases"
          hint="With semicolons between them; a name that it had before is kept here"
        >
          <TextInput id="model-aliases" value={d.aliases} onChange={(aliases) => set({ ...d, aliases })} />
        </Field>
        <Field label="Maker" htmlFor="model-maker">
          <TextInput id="model-maker" value={d.maker} onChange={(maker) => set({ ...d, maker })} />
        </Field>
        <Field label="Based on" htmlFor="model-based" hint="Shares its defaults, ports and needs">
          <Select
            id="model-based"
            value={d.basedOn}
            onChange={(basedOn) => set({ ...d, basedOn })}
            empty="nothing"
            options={others}
          />
        </Field>
        <div className="sm:col-span-2">
          <Field
            label="Printed on it"
            htmlFor="model-markings"
            hint="Beginnings of the marking, with commas between them: typed markings are decoded by these"
          >
            <TextInput
              id="model-markings"
              className="font-mono"
              value={d.markings}
              onChange={(markings) => set({ ...d, markings })}
            />
          </Field>
        </div>
      </div>
      {kind && (
        <ModelDefaults traits={kind.traits} defaults={d.defaults} onChange={(defaults) => set({ ...d, defaults })} />
      )}
      {kind && (
        <NeedsEditor
          kind={d.kind}
          needs={d.needs}
          inherited={inherited(sheet.catalogue, d.kind, d.basedOn)}
          onChange={(needs) => set({ ...d, needs })}
        />
      )}
      <fieldset className="space-y-3 border-2 border-line px-4 py-3">
        <legend className="px-1 font-semibold">What it takes of the machine</legend>
        <UsesEditor name="It takes" add="Add what it takes" uses={d.uses} onChange={(uses) => set({ ...d, uses })} />
      </fieldset>
      <ModelPorts ports={d.ports} onChange={(ports) => set({ ...d, ports })} />
      <Field label="Note" htmlFor="model-note">
        <TextInput id="model-note" value={d.note} onChange={(note) => set({ ...d, note })} />
      </Field>
      {model && (
        <Field label="Superseded by" htmlFor="model-superseded" hint="Stays on record and is proposed no more">
          <Select
            id="model-superseded"
            value={d.superseded}
            onChange={(superseded) => set({ ...d, superseded })}
            empty="in force"
            options={others}
          />
        </Field>
      )}
      {model && (
        <Check
          label="Hide it in this shop: it is proposed no more; what carries one keeps it"
          checked={d.hidden}
          onChange={(hidden) => set({ ...d, hidden })}
        />
      )}
    </EntryForm>
  );
}
