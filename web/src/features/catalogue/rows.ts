import type { Schemas } from "../../api/client";

type Sheet = Schemas["CatalogueSheet"];
export type Section = "model" | "kind" | "slot";

/** A line of the catalogue: a model, a kind of part or a usual position. */
export type EntryRow = {
  key: string;
  name: string;
  group: string;
  maker: string;
  text: string;
  superseded?: string;
  from: string;
  used: number;
};

/** The lines of a section in which a text is found. */
export function rowsOf(sheet: Sheet, section: Section, text: string): EntryRow[] {
  const needle = text.toLowerCase();
  const c = sheet.catalogue;
  const kindLabel = (key: string) => c.kinds.find((k) => k.key === key)?.label ?? key;
  const found = (...words: (string | undefined)[]) => words.join(" ").toLowerCase().includes(needle);
  const entries = new Map(sheet.entries.filter((e) => e.section === section).map((e) => [e.key, e]));
  const row = (key: string, name: string, more: Partial<EntryRow>): EntryRow => {
    const e = entries.get(key);
    const from = e?.shipped ? "shipped" : (e?.changedBy ?? "");
    return { key, name, group: "", maker: "", text: "", from, used: e?.used ?? 0, ...more };
  };
  if (section === "model")
    return c.models
      .filter((m) => found(m.name, m.maker, kindLabel(m.kind), ...(m.markings ?? [])))
      .map((m) =>
        row(modelKey(m), m.name, {
          group: kindLabel(m.kind),
          maker: m.maker,
          superseded: m.superseded,
          text: [
            m.hidden && "hidden in this shop",
            m.basedOn && `based on ${m.basedOn}`,
            m.positions?.length && `${m.positions.length} positions, for new machines`,
            statedOf(sheet, m),
            ...(sheet.budgets[modelKey(m)] ?? []),
          ]
            .filter(Boolean)
            .join(" · "),
        }),
      );
  if (section === "kind")
    return c.kinds
      .filter((k) => found(k.label, ...k.traits.map((t) => t.label)))
      .map((k) =>
        row(k.key, k.label, {
          superseded: k.superseded,
          text: k.traits
            .slice(1)
            .map((t) => `${t.label}${t.unit ? ` (${t.unit})` : ""}${t.superseded ? " †" : ""}`)
            .join(", "),
        }),
      );
  return c.slots
    .filter((s) => found(s.label, s.group, kindLabel(s.kind)))
    .map((s) =>
      row(s.key, s.label, {
        group: s.group,
        superseded: s.superseded,
        text: `${kindLabel(s.kind)}${s.sometimes ? "; only some machines" : ""}`,
      }),
    );
}

/** What a model is supposed to be, besides what it offers of capacities. */
function statedOf(sheet: Sheet, m: Schemas["Model"]): string {
  const traits = sheet.catalogue.kinds.find((k) => k.key === m.kind)?.traits ?? [];
  return traits
    .filter((t) => !t.budget && m.defaults?.[t.name])
    .map((t) => `${t.label} ${m.defaults?.[t.name]}${t.unit ? ` ${t.unit}` : ""}`)
    .join(", ");
}

export function modelKey(m: Schemas["Model"]) {
  return `${m.kind}/${m.name.trim().replace(/\s+/g, " ").toLowerCase()}`;
}
