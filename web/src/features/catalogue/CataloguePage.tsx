import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { Button } from "../../ui/form";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { SubPlaces, storePages } from "../../ui/SubPlaces";
import { useMayWork } from "../../ui/session";
import { Empty, Loaded } from "../../ui/states";
import { SearchInput } from "../../ui/table/SearchInput";
import { useAddress } from "../../ui/table/useAddress";
import { EntryTable } from "./EntryTable";
import { KindEditor } from "./KindEditor";
import { ModelEditor } from "./ModelEditor";
import { modelKey, rowsOf, type Section } from "./rows";
import { SlotEditor } from "./SlotEditor";

type Sheet = Schemas["CatalogueSheet"];

const sections: [Section, string][] = [
  ["model", "Models"],
  ["kind", "Kinds and traits"],
  ["slot", "Usual positions"],
];

/** What the fleet is described in, for technicians to add to. */
export default function CataloguePage() {
  const query = useQuery({ queryKey: keys.catalogue(), queryFn: () => unwrap(api.GET("/api/catalogue")) });
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
  const [address, change] = useAddress();
  const section = (address.get("section") ?? "model") as Section;
  const text = address.get("text") ?? "";
  /** Another section begins anew: what the one before was narrowed by means nothing there. */
  const show = (to: Section) =>
    change((of) => {
      for (const name of [...of.keys()]) of.delete(name);
      of.set("section", to);
    });
  const [open, setOpen] = useState<{ section: Section; key: string }>();
  const c = sheet.catalogue;
  const entry = (section: string, key: string) => sheet.entries.find((e) => e.section === section && e.key === key);
  const rows = rowsOf(sheet, section, text);
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
          <Button key={key} main={section === key} aria-pressed={section === key} onClick={() => show(key)}>
            {label}
          </Button>
        ))}
        <SearchInput
          aria-label="Search the catalogue"
          placeholder="Name, marking, trait"
          value={text}
          onChange={(sought) => change((of) => (sought ? of.set("text", sought) : of.delete("text")))}
        />
        {mayWork && (
          <Button onClick={() => setOpen({ section, key: "" })}>
            New {{ kind: "kind of part", slot: "usual position", model: "model" }[section]}
          </Button>
        )}
      </div>
      {rows.length === 0 ? (
        <Empty title="Nothing has this name." />
      ) : (
        <EntryTable key={section} rows={rows} onOpen={(key) => setOpen({ section, key })} />
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
