import type { Schemas } from "../../api/client";
import { listOf } from "../../ui/catalogueKeys";
import { useEdit } from "../../ui/draft";
import { Button, Check, Field, Select, TextInput } from "../../ui/form";
import { OptionalNumber } from "../../ui/NumberInput";
import { NeedsEditor } from "../../ui/needs/NeedsEditor";
import { UsesEditor } from "../../ui/needs/UsesEditor";
import { EntryForm } from "./EntryForm";

type PortDraft = { name: string; ways?: number; amperes?: number; pins: string };

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
  const edit = useEdit(`model-${model ? `${model.kind}-${model.name}` : "new"}`, version, {
    kind: model?.kind ?? "",
    name: model?.name ?? "",
    maker: model?.maker ?? "",
    basedOn: model?.basedOn ?? "",
    markings: (model?.markings ?? []).join(", "),
    note: model?.note ?? "",
    superseded: model?.superseded ?? "",
    hidden: model?.hidden ?? false,
    aliases: (model?.aliases ?? []).join("; "),
    defaults: { ...model?.defaults } as Record<string, string>,
    needs: [...(model?.needs ?? [])],
    uses: [...(model?.uses ?? [])],
    ports: (model?.ports ?? []).map(
      (p): PortDraft => ({
        name: p.name,
        ways: p.ways,
        amperes: p.amperes || undefined,
        pins: (p.pins ?? []).join(" "),
      }),
    ),
  });
  const { value: d, set } = edit;
  const kind = sheet.catalogue.kinds.find((k) => k.key === d.kind);
  const others = sheet.catalogue.models.filter((m) => m.kind === d.kind && m.name !== model?.name).map((m) => m.name);
  const port = (i: number, change: Partial<PortDraft>) =>
    set({ ...d, ports: d.ports.map((p, k) => (k === i ? { ...p, ...change } : p)) });
  return (
    <EntryForm
      title={model ? model.name : "A new model"}
      section="model"
      entryKey={model && `${model.kind}/${model.name.toLowerCase()}`}
      edit={edit}
      body={() => ({
        was: model?.name,
        model: {
          kind: d.kind,
          name: d.name,
          maker: d.maker,
          basedOn: d.basedOn,
          note: d.note,
          superseded: d.superseded,
          hidden: d.hidden,
          markings: listOf(d.markings),
          aliases: listOf(d.aliases, /\s*;\s*/),
          positions: model?.positions,
          needs: d.needs,
          uses: d.uses,
          defaults: Object.fromEntries(Object.entries(d.defaults).filter(([, v]) => v.trim())),
          ports: d.ports.map((p) => ({
            name: p.name,
            ways: p.ways ?? 0,
            amperes: p.amperes ?? 0,
            pins: listOf(p.pins, /[\s,;]+/),
          })),
        },
      })}
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
        <fieldset className="grid gap-3 border-2 border-line px-4 py-3 sm:grid-cols-2">
          <legend className="px-1 font-semibold">Supposed to be (a claim, until somebody looks)</legend>
          {kind.traits
            .filter((t) => t.name !== "model" && !t.superseded)
            .map((t) => (
              <Field key={t.name} label={`${t.label}${t.unit ? `, ${t.unit}` : ""}`} htmlFor={`default-${t.name}`}>
                {t.kind === "choice" || t.kind === "yes/no" ? (
                  <Select
                    id={`default-${t.name}`}
                    value={d.defaults[t.name] ?? ""}
                    onChange={(v) => set({ ...d, defaults: { ...d.defaults, [t.name]: v } })}
                    empty="not said"
                    options={t.kind === "choice" ? (t.choices ?? []) : ["yes", "no"]}
                  />
                ) : (
                  <TextInput
                    id={`default-${t.name}`}
                    value={d.defaults[t.name] ?? ""}
                    onChange={(v) => set({ ...d, defaults: { ...d.defaults, [t.name]: v } })}
                  />
                )}
              </Field>
            ))}
        </fieldset>
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
      <fieldset className="space-y-3 border-2 border-line px-4 py-3">
        <legend className="px-1 font-semibold">Ports</legend>
        {d.ports.map((p, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a port has no identity but its place
          <div key={i} className="grid grid-cols-[1fr_4.5rem_5.5rem_auto] items-end gap-2">
            <Field label="Port" htmlFor={`port-${i}`}>
              <TextInput id={`port-${i}`} required value={p.name} onChange={(name) => port(i, { name })} />
            </Field>
            <Field label="Ways" htmlFor={`port-ways-${i}`}>
              <OptionalNumber id={`port-ways-${i}`} value={p.ways} onChange={(ways) => port(i, { ways })} />
            </Field>
            <Field label="A a way" htmlFor={`port-amps-${i}`}>
              <OptionalNumber
                id={`port-amps-${i}`}
                unit="A"
                value={p.amperes}
                onChange={(amperes) => port(i, { amperes })}
              />
            </Field>
            <Button danger onClick={() => set({ ...d, ports: d.ports.filter((_, k) => k !== i) })}>
              Remove
            </Button>
            <div className="col-span-4">
              <Field label="Pins, in the header's order" htmlFor={`port-pins-${i}`}>
                <TextInput
                  id={`port-pins-${i}`}
                  className="font-mono"
                  placeholder="1A 1B 2A 2B"
                  value={p.pins}
                  onChange={(pins) => port(i, { pins })}
                />
              </Field>
            </div>
          </div>
        ))}
        <Button onClick={() => set({ ...d, ports: [...d.ports, { name: "", pins: "" }] })}>Add a port</Button>
      </fieldset>
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

/** The needs that a model has of its kind and of what it is based on, the nearest first. */
function inherited(catalogue: Schemas["Catalogue"], kind: string, basedOn: string) {
  const out: { need: Schemas["Need"]; from: string }[] = [];
  const gone = new Set<string>();
  const add = (needs: readonly Schemas["Need"][] | undefined, from: string) => {
    for (const need of needs ?? []) {
      if (gone.has(need.key)) continue;
      gone.add(need.key);
      if (!need.drop) out.push({ need, from });
    }
  };
  let name = basedOn;
  for (let steps = 0; name && steps < 20; steps++) {
    const base = catalogue.models.find((m) => m.kind === kind && m.name === name);
    add(base?.needs, name);
    name = base?.basedOn ?? "";
  }
  const of = catalogue.kinds.find((k) => k.key === kind);
  add(of?.needs, `every ${of?.label.toLowerCase() ?? "part of its kind"}`);
  return out;
}
