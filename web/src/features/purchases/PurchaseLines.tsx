import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { Button } from "../../ui/form";
import { showMoney } from "../../ui/money";
import type { Column } from "../../ui/table/column";
import { Table } from "../../ui/table/Table";

type Thing = { line: Schemas["PurchaseLine"]; kept: number; progress: Schemas["LineProgress"] };

/** The things of an order: each part in its boxes, and what goes on no record. */
export function PurchaseLines({
  order,
  onReceive,
}: {
  order: Schemas["PurchaseSheet"];
  onReceive: (line: Schemas["PurchaseLine"], kept: number) => void;
}) {
  const things = order.lines.flatMap((line) =>
    line.progress.map((progress, kept): Thing => ({ line, kept, progress })),
  );
  const columns: Column<Thing>[] = [
    { key: "what", label: "What", names: true, className: "px-3 py-1", cell: (t) => <What thing={t} order={order} /> },
    { key: "ordered", label: "Ordered", figures: true, cell: (t) => t.progress.ordered },
    { key: "good", label: "Here", figures: true, cell: (t) => t.progress.good },
    { key: "claimed", label: "Claimed", figures: true, cell: (t) => t.progress.claimed || "" },
    { key: "out", label: "To come", figures: true, cell: (t) => t.progress.toCome },
    { key: "price", label: "Price", figures: true, cell: (t) => (t.kept === 0 ? showMoney(t.line.price) : "") },
    {
      key: "do",
      label: "",
      className: "px-3 py-1 text-right",
      cell: (t) =>
        t.progress.toCome > 0 &&
        !order.closedAt && (
          <Button data-row main className="whitespace-nowrap compact:min-h-8" onClick={() => onReceive(t.line, t.kept)}>
            Receive one
          </Button>
        ),
    },
  ];
  return <Table label="lines" rows={things} columns={columns} keyOf={(t) => `${t.line.id} ${t.kept}`} />;
}

function What({ thing: { line, kept }, order }: { thing: Thing; order: Schemas["PurchaseSheet"] }) {
  const part = line.kept[kept];
  const others = line.box.length > 0 && kept === 0;
  return (
    <>
      <b>{part?.model ?? line.what}</b>
      {part && <span className="ml-2 text-dim">{order.labels[part.kind] ?? part.kind}</span>}
      {line.kit && (
        <span className="block text-sm text-dim">
          in the box of <Link to={`/ask/${line.kit}`}>{line.what}</Link>
        </span>
      )}
      {kept === 0 && line.machines.length > 0 && (
        <span className="block text-sm">for {line.machines.map((id) => order.names[id] ?? id).join(", ")}</span>
      )}
      {others && (
        <details className="text-sm">
          <summary className="min-h-8 cursor-pointer">Check the box against its list: {line.box.length}</summary>
          <ul className="border-l-2 border-line pl-3">
            {line.box.map((b) => (
              <li key={b}>{b}</li>
            ))}
          </ul>
        </details>
      )}
    </>
  );
}
