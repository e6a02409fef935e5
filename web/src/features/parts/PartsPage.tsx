import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { Button, Select } from "../../ui/form";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { More, PAGE, usePages } from "../../ui/pages";
import { SubPlaces, storePages } from "../../ui/SubPlaces";
import { useMayWork } from "../../ui/session";
import { Empty, Loaded } from "../../ui/states";
import { SearchInput } from "../../ui/table/SearchInput";
import { useArrangement } from "../../ui/table/useArrangement";
import { useInAddress } from "../../ui/table/useInAddress";
import { AddPart } from "./AddPart";
import { groups, PartTable } from "./PartTable";
import { Suppliers } from "./Suppliers";

/** Every part and where it is; suppliers by how often their claims failed. */
export default function PartsPage() {
  const mayWork = useMayWork();
  const [adding, setAdding] = useState(false);
  const catalogue = useQuery({ queryKey: keys.catalogue(), queryFn: () => unwrap(api.GET("/api/catalogue")) });
  return (
    <Page
      title="Parts"
      lead="In machines, on the shelf, scrapped; with how reliable suppliers are."
      actions={
        <>
          <LinkButton to="/builds">Firmware builds</LinkButton>
          <LinkButton to="/labels?parts=1">Labels</LinkButton>
          {mayWork && (
            <Button main onClick={() => setAdding(true)}>
              Add a part to the shelf
            </Button>
          )}
        </>
      }
    >
      <SubPlaces label="Stores" pages={storePages} />
      <Loaded query={catalogue} what="Reading the catalogue">
        {(c) => <Book kinds={c.catalogue.kinds} />}
      </Loaded>
      <Suppliers />
      {adding && catalogue.data && <AddPart catalogue={catalogue.data.catalogue} onClose={() => setAdding(false)} />}
    </Page>
  );
}

function Book({ kinds }: { kinds: readonly Schemas["PartKind"][] }) {
  const [asked, ask] = useInAddress({ where: "shelf", kind: "", text: "" });
  const [how, arrange] = useArrangement();
  const [selected, setSelected] = useState<readonly number[]>([]);
  const label = new Map(kinds.map((k) => [k.key, k.label]));
  const question = {
    where: asked.where === "all" ? undefined : (asked.where as "shelf" | "machine" | "scrap"),
    kind: asked.kind,
    text: useDeferredValue(asked.text.trim()),
    sort: how.sort as "model",
    down: how.down,
    group: how.group as "kind",
  };
  const {
    query,
    first,
    rows: kept,
  } = usePages(
    keys.parts(question),
    (offset) => unwrap(api.GET("/api/parts", { params: { query: { ...question, limit: PAGE, offset } } })),
    (page) => page.parts,
    (page) => page.total,
  );
  const count = (of: "shelf" | "machine" | "scrap") => first?.counts[of] ?? 0;
  return (
    <section aria-label="Parts">
      <div className="no-print mb-3 flex flex-wrap gap-3">
        <SearchInput
          aria-label="Search the parts"
          placeholder="Model, tag, serial, lot"
          value={asked.text}
          onChange={(text) => ask({ text })}
        />
        <Select
          aria-label="Where"
          className="max-w-56"
          value={asked.where}
          onChange={(where) => ask({ where })}
          options={[
            ["shelf", `On the shelf (${count("shelf")})`],
            ["machine", `In machines (${count("machine")})`],
            ["scrap", `Scrapped (${count("scrap")})`],
            ["all", `All (${count("shelf") + count("machine") + count("scrap")})`],
          ]}
        />
        <Select
          aria-label="Kind"
          className="max-w-56"
          value={asked.kind}
          onChange={(kind) => ask({ kind })}
          empty="Every kind"
          options={kinds.map((k) => [k.key, k.label] as const)}
        />
        <Select
          aria-label="Group by"
          className="max-w-44"
          value={how.group}
          onChange={(group) => arrange({ group })}
          empty="Not grouped"
          options={groups}
        />
        {selected.length > 0 && (
          <LinkButton to={`/labels?${selected.map((id) => `part=${id}`).join("&")}`}>
            Labels of the selected: {selected.length}
          </LinkButton>
        )}
      </div>
      {!first ? (
        <Loaded query={query} what="Reading the parts">
          {() => null}
        </Loaded>
      ) : kept.length === 0 ? (
        <Empty title="No part is like that." />
      ) : (
        <PartTable
          parts={kept}
          label={(kind) => label.get(kind) ?? kind}
          how={how}
          onArrange={arrange}
          pages={query}
          selected={selected}
          onSelect={setSelected}
        />
      )}
      <More query={query} shown={kept.length} found={first?.total ?? 0} what="parts" />
    </section>
  );
}
