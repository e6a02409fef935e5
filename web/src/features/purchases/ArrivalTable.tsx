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

/** What came of an order, and what became of it. */
export function ArrivalTable({ arrivals }: { arrivals: readonly Arrival[] }) {
  const [changing, setChanging] = useState<Arrival>();
  const columns: Column<Arrival>[] = [
    { key: "on", label: "Came", cell: (a) => <span className="whitespace-nowrap">{showDay(a.cameOn)}</span> },
    { key: "what", label: "What", names: true, className: "px-3 py-1", cell: (a) => <b>{a.what}</b> },
    {
      key: "outcome",
      label: "As found",
      cell: (a) => (a.outcome === "as advertised" ? <State tone="good">as advertised</State> : <Differs arrival={a} />),
    },
    {
      key: "lot",
      label: "Lot",
      cell: (a) =>
        a.lot && (
          <Link className="underline underline-offset-4" to={`/lot?lot=${encodeURIComponent(a.lot)}`}>
            {a.lot}
          </Link>
        ),
    },
    { key: "slip", label: "Delivery note", cell: (a) => a.slip },
    { key: "by", label: "Received by", cell: (a) => a.receivedBy },
    { key: "became", label: "Became", cell: (a) => <Became arrival={a} onChange={() => setChanging(a)} /> },
  ];
  return (
    <>
      <Table label="things that came" rows={arrivals} columns={columns} keyOf={(a) => a.id} />
      {changing && <ClaimPanel arrival={changing} onClose={() => setChanging(undefined)} />}
    </>
  );
}

function Became({ arrival: a, onChange }: { arrival: Arrival; onChange: () => void }) {
  if (a.partId)
    return (
      <Link data-row className="inline-flex min-h-10 items-center underline compact:min-h-0" to={`/part/${a.partId}`}>
        part {a.partId}
      </Link>
    );
  if (a.outcome === "as advertised") return "used up";
  return (
    <>
      <State tone={a.waits ? "bad" : "dim"}>{`claim ${a.claim}`}</State>
      {a.due && <span className="block">{a.due}</span>}
      {a.waits && (
        <Button data-row className="mt-1 whitespace-nowrap compact:min-h-8" onClick={onChange}>
          Change the claim
        </Button>
      )}
    </>
  );
}
