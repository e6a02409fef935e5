import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { Selected } from "../../ui/fleet/Selected";
import { Button } from "../../ui/form";
import { Page } from "../../ui/Page";
import { More, PAGE, usePages } from "../../ui/pages";
import { SubPlaces, storePages } from "../../ui/SubPlaces";
import { Empty, Loaded } from "../../ui/states";
import { useArrangement } from "../../ui/table/useArrangement";
import { PartTable } from "./PartTable";

/** All parts of a lot and where each is: their machines can be taken out of use or inspected at once. */
export default function LotPage() {
  const lot = useSearchParams()[0].get("lot") ?? "";
  const [how, arrange] = useArrangement({ group: "where" });
  const [selected, setSelected] = useState<readonly number[]>([]);
  const catalogue = useQuery({ queryKey: keys.catalogue(), queryFn: () => unwrap(api.GET("/api/catalogue")) });
  const label = new Map(catalogue.data?.catalogue.kinds.map((k) => [k.key, k.label]));
  const question = { lot, sort: how.sort as "model", down: how.down, group: how.group as "kind" };
  const {
    query,
    first,
    rows: parts,
  } = usePages(
    keys.parts(question),
    (offset) => unwrap(api.GET("/api/parts", { params: { query: { ...question, limit: PAGE, offset } } })),
    (page) => page.parts,
    (page) => page.total,
  );
  const inMachines = parts.filter((p) => machineOf(p));
  const machines = [...new Set(parts.filter((p) => selected.includes(p.id)).flatMap((p) => machineOf(p) ?? []))];
  return (
    <Page
      title={`Lot ${lot}`}
      lead={first && `${first.total} parts on record, ${inMachines.length} of them in machines`}
      actions={
        inMachines.length > 0 && (
          <Button main onClick={() => setSelected(inMachines.map((p) => p.id))}>
            Select all machines with one
          </Button>
        )
      }
    >
      <SubPlaces label="Stores" pages={storePages} />
      {!first ? (
        <Loaded query={query} what="Reading the lot">
          {() => null}
        </Loaded>
      ) : parts.length === 0 ? (
        <Empty title="No part of this lot is on record." />
      ) : (
        <PartTable
          parts={parts}
          label={(kind) => label.get(kind) ?? kind}
          how={how}
          onArrange={arrange}
          pages={query}
          selected={selected}
          onSelect={setSelected}
        />
      )}
      <More query={query} shown={parts.length} found={first?.total ?? 0} what="parts" />
      {machines.length > 0 && <Selected ids={machines} onClear={() => setSelected([])} />}
    </Page>
  );
}

function machineOf(p: { places: readonly { to?: string; machineId?: number }[] }): number | undefined {
  return p.places.find((place) => !place.to)?.machineId;
}
