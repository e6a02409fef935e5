import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { State } from "../../ui/badges";
import { showDay } from "../../ui/dates";
import { ArrangeBar } from "../../ui/table/ArrangeBar";
import type { Column } from "../../ui/table/column";
import { Table } from "../../ui/table/Table";
import { useArranged } from "../../ui/table/useArranged";
import { useArrangement } from "../../ui/table/useArrangement";
import { counted } from "./counted";

type Purchase = Schemas["Purchase"];

export function PurchaseTable({ orders }: { orders: readonly Purchase[] }) {
  const [how, arrange] = useArrangement({ sort: "on", down: true });
  const columns: Column<Purchase>[] = [
    {
      key: "id",
      label: "Order",
      sort: true,
      names: true,
      value: (p) => p.id,
      cell: (p) => (
        <Link data-row to={`/purchase/${p.id}`} className="flex min-h-11 items-center px-3 font-bold compact:min-h-8">
          {p.supplier}
          {p.reference && <span className="ml-2 font-mono font-normal">{p.reference}</span>}
        </Link>
      ),
    },
    { key: "supplier", label: "Supplier", filter: true, group: true, hidden: true, value: (p) => p.supplier },
    { key: "on", label: "Ordered", sort: true, value: (p) => p.orderedOn, cell: (p) => showDay(p.orderedOn) },
    {
      key: "what",
      label: "What",
      cell: (p) => (
        <span className="line-clamp-2 min-w-48">{p.lines.map((l) => `${l.count} × ${l.what}`).join(", ")}</span>
      ),
    },
    { key: "state", label: "State", value: stateOf, sort: true, group: true, cell: (p) => <OrderState order={p} /> },
  ];
  return (
    <>
      <ArrangeBar rows={orders} columns={columns} how={how} onArrange={arrange} />
      <Table
        label="orders"
        rows={useArranged(orders, columns, how)}
        columns={columns}
        keyOf={(p) => p.id}
        how={how}
        onArrange={arrange}
      />
    </>
  );
}

function stateOf(p: Purchase): string {
  const { toCome, claimed } = counted(p.lines.flatMap((l) => l.progress));
  if (claimed > 0) return "claimed";
  if (p.closedAt) return "closed";
  return toCome > 0 ? "waited for" : "all here";
}

/** How far an order is, with a mark. */
export function OrderState({ order: p }: { order: Purchase }) {
  const { come, toCome, claimed } = counted(p.lines.flatMap((l) => l.progress));
  if (claimed > 0) return <State tone="bad">{`${claimed} claimed`}</State>;
  if (p.closedAt) return <State tone="dim">{`closed: ${p.closedWhy}`}</State>;
  if (toCome === 0) return <State tone="good">all here</State>;
  return <State tone="cond">{come > 0 ? `${come} here, ${toCome} to come` : `${toCome} to come`}</State>;
}
