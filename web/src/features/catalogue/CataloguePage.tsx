import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { useDraft } from "../../ui/draft";
import { Button, TextInput } from "../../ui/form";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { SubPlaces, storePages } from "../../ui/SubPlaces";
import { useMayWork } from "../../ui/session";
import { Empty, Loaded } from "../../ui/states";
import { KindEditor } from "./KindEditor";
import { ModelEditor } from "./ModelEditor";
import { SlotEditor } from "./SlotEditor";

type Sheet = Schemas["CatalogueSheet"];
type Section = "model" | "kind" | "slot";

const sections: [Section, string][] = [
  ["model", "Models"],
  ["kind", "Kinds and traits"],
  ["slot", "Usual positions"],
];

/** What the fleet is described in, for technicians to add to. */
export default function CataloguePage() {
  const query = useQuery({ queryKey: ["catalogue"], queryFn: () => unwrap(api.GET("/api/catalogue")) });
  return (
    <Page
      title="Catalogue"
      lead="Models with what is claimed of them; kinds of part with their traits; the usual positions of a machine."
      actions={
        <>
          <LinkButton href="/api/catalogue.json">Catalogue as JSON</LinkButton>
          <LinkButton to="/import?what=catalogue">Import one</LinkButton>
        </>
      }
    >
      <SubPlaces label="Stores" pages={storePages} />
      <Loaded query={query} what="Reading the catalogue">
        {(sheet) => <Book sheet={sheet} />}
      </Loaded>
    </Page>
  );
}

function Book({ sheet }: { sheet: Sheet }) {
  const mayWork = useMayWork();
  const [view, setView] = useDraft("catalogue", { section: "model" as Section, text: "" });
  const [open, setOpen] = useState<{ section: Section; key: string }>();
  const c = sheet.catalogue;
  const entry = (section: string, key: string) => sheet.entries.find((e) => e.section === section && e.key === key);
  const needle = view.text.toLowerCase();
  const found = (...words: (string | undefined)[]) => words.join(" ").toLowerCase().includes(needle);
  const kindLabel = (key: string) => c.kinds.find((k) => k.key === key)?.label ?? key;
  /** What a model is supposed to be, besides what it offers of capacities. */
  const said = (m: Schemas["Model"]) => {
    const traits = c.kinds.find((k) => k.key === m.kind)?.traits ?? [];
    return traits
      .filter((t) => !t.budget && m.defaults?.[t.name])
      .map((t) => `${t.label} ${m.defaults?.[t.name]}${t.unit ? ` ${t.unit}` : ""}`)
      .join(", ");
  };
  const rows: { key: string; name: string; group: string; text: string; superseded?: string }[] =
    view.section === "model"
      ? c.models
          .filter((m) => found(m.name, m.maker, kindLabel(m.kind), ...(m.markings ?? [])))
          .map((m) => ({
            key: modelKey(m),
            name: m.name,
            group: kindLabel(m.kind),
            text: [
              m.maker,
              m.basedOn && `based on ${m.basedOn}`,
              m.positions?.length && `${m.positions.length} positions, for new machines`,
              said(m),
              ...(sheet.budgets[modelKey(m)] ?? []),
            ]
              .filter(Boolean)
              .join(" · "),
            superseded: m.superseded,
          }))
          .sort((a, b) => a.group.localeCompare(b.group) || a.name.localeCompare(b.name))
      : view.section === "kind"
        ? c.kinds
            .filter((k) => found(k.label, ...k.traits.map((t) => t.label)))
            .map((k) => ({
              key: k.key,
              name: k.label,
              group: "",
              text: k.traits
                .slice(1)
                .map((t) => `${t.label}${t.unit ? ` (${t.unit})` : ""}${t.superseded ? " †" : ""}`)
                .join(", "),
              superseded: k.superseded,
            }))
        : c.slots
            .filter((s) => found(s.label, s.group, kindLabel(s.kind)))
            .map((s) => ({
              key: s.key,
              name: s.label,
              group: s.group,
              text: `${kindLabel(s.kind)}${s.sometimes ? "; only some machines" : ""}`,
              superseded: s.superseded,
            }));
  const close = () => setOpen(undefined);
  const at = open && entry(open.section, open.key);
  return (
    <>
      {sheet.rulesOff.length > 0 && (
        <div role="status" className="mb-4 border-l-4 border-bad bg-bad-wash px-4 py-2">
          <p className="font-semibold">
            Rules that are switched off, because the catalogue has otherwise what they read:
          </p>
          <ul className="list-disc pl-5">
            {sheet.rulesOff.map((r) => (
              <li key={r}>{r}</li>
            ))}
          </ul>
        </div>
      )}
      <div className="no-print mb-4 flex flex-wrap items-center gap-3">
        {sections.map(([key, label]) => (
          <Button
            key={key}
            main={view.section === key}
            aria-pressed={view.section === key}
            onClick={() => setView({ section: key, text: "" })}
          >
            {label}
          </Button>
        ))}
        <TextInput
          aria-label="Search the catalogue"
          className="max-w-64"
          placeholder="Name, marking, trait"
          value={view.text}
          onChange={(text) => setView({ ...view, text })}
        />
        {mayWork && (
          <Button onClick={() => setOpen({ section: view.section, key: "" })}>
            New {{ kind: "kind of part", slot: "usual position", model: "model" }[view.section]}
          </Button>
        )}
      </div>
      {rows.length === 0 ? (
        <Empty title="Nothing has this name." />
      ) : (
        <ul className="bg-leaf">
          {rows.map((r, i) => {
            const e = entry(view.section, r.key);
            return (
              <li key={r.key}>
                {r.group && r.group !== rows[i - 1]?.group && (
                  <h2 className="border-b-2 border-line bg-wall pt-3 pb-1 font-bold text-dim">{r.group}</h2>
                )}
                <button
                  type="button"
                  className="grid min-h-12 w-full grid-cols-[minmax(10rem,1fr)_minmax(0,3fr)_auto] gap-x-4 border-b border-rule px-3 py-2 text-left hover:bg-wash"
                  onClick={() => setOpen({ section: view.section, key: r.key })}
                >
                  <b className={r.superseded ? "line-through" : ""}>{r.name}</b>
                  <span className="min-w-0 break-words">{r.superseded ? `superseded by ${r.superseded}` : r.text}</span>
                  <span className="text-sm text-dim">
                    {e?.shipped ? "shipped" : (e?.changedBy ?? "")}
                    {e && e.used > 0 && <span className="block">in use: {e.used}</span>}
                  </span>
                </button>
              </li>
            );
          })}
        </ul>
      )}
      {open?.section === "model" && (
        <ModelEditor
          sheet={sheet}
          model={c.models.find((m) => modelKey(m) === open.key)}
          version={at?.version ?? 0}
          onClose={close}
        />
      )}
      {open?.section === "kind" && (
        <KindEditor
          sheet={sheet}
          kind={c.kinds.find((k) => k.key === open.key)}
          version={at?.version ?? 0}
          onClose={close}
        />
      )}
      {open?.section === "slot" && (
        <SlotEditor
          sheet={sheet}
          slot={c.slots.find((s) => s.key === open.key)}
          version={at?.version ?? 0}
          onClose={close}
        />
      )}
    </>
  );
}

function modelKey(m: Schemas["Model"]) {
  return `${m.kind}/${m.name.trim().replace(/\s+/g, " ").toLowerCase()}`;
}
