import type { Schemas } from "../../api/client";
import { listOf } from "../../ui/catalogueKeys";

export type PortDraft = { name: string; ways?: number; amperes?: number; pins: string };

export type ModelDraft = ReturnType<typeof draftOf>;

/** A model as it is typed: lists as one line, numbers that may be empty. */
export function draftOf(model?: Schemas["Model"]) {
  return {
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
  };
}

/** The model that was typed; the positions of the one before are kept. */
export function modelOf(d: ModelDraft, before?: Schemas["Model"]): Schemas["Model"] {
  return {
    kind: d.kind,
    name: d.name,
    maker: d.maker,
    basedOn: d.basedOn,
    note: d.note,
    superseded: d.superseded,
    hidden: d.hidden,
    markings: listOf(d.markings),
    aliases: listOf(d.aliases, /\s*;\s*/),
    positions: before?.positions,
    needs: d.needs,
    uses: d.uses,
    defaults: Object.fromEntries(Object.entries(d.defaults).filter(([, v]) => v.trim())),
    ports: d.ports.map((p) => ({
      name: p.name,
      ways: p.ways ?? 0,
      amperes: p.amperes ?? 0,
      pins: listOf(p.pins, /[\s,;]+/),
    })),
  };
}

/** The needs that a model has of its kind and of what it is based on, the nearest first. */
export function inherited(catalogue: Schemas["Catalogue"], kind: string, basedOn: string) {
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
