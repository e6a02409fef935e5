import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { State } from "../../ui/badges";
import { showDay } from "../../ui/dates";
import { Button } from "../../ui/form";
import type { Column } from "../../ui/table/column";
import { Table } from "../../ui/table/Table";
import { ClaimPanel } from "./ClaimPanel";
import { Differs } from "./Differs";

type Arrival = Schemas["Arrival"];

/** What is claimed of suppliers, what goes back first first. */
export function ClaimTable({ claims }: { claims: readonly Arrival[] }) {
  const [changing, setChanging] = useState<Arrival>();
  const columns: Column<Arrival>[] = [
    {
      key: "what",
      label: "What",
      names: true,
      cell: (a) => (
        <Link
          data-row
          to={`/purchase/${a.purchaseId}`}
          className="flex min-h-11 items-center px-3 font-bold compact:min-h-8"
        >
          {a.what}
        </Link>
      ),
    },
    { key: "supplier", label: "Supplier", cell: (a) => a.supplier },
    { key: "why", label: "Why", cell: (a) => <Differs arrival={a} /> },
    { key: "came", label: "Came", cell: (a) => <span className="whitespace-nowrap">{showDay(a.cameOn)}</span> },
    {
      key: "state",
      label: "State",
      cell: (a) => (
        <>
          <State tone={a.claim === "open" ? "bad" : "look"}>{a.claim ?? ""}</State>
          {a.due && <span className="block font-semibold">{a.due}</span>}
          {a.claimNote && <span className="block text-sm text-dim">{a.claimNote}</span>}
        </>
      ),
    },
    {
      key: "do",
      label: "",
      className: "px-3 py-1 text-right",
      cell: (a) => (
        <Button className="whitespace-nowrap compact:min-h-8" onClick={() => setChanging(a)}>
          Change the claim
        </Button>
      ),
    },
  ];
  return (
    <>
      <Table label="claims" rows={claims} columns={columns} keyOf={(a) => a.id} />
      {changing && <ClaimPanel arrival={changing} onClose={() => setChanging(undefined)} />}
    </>
  );
}
