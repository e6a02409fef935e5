import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { GradeMark } from "../../ui/badges";
import { showDay } from "../../ui/dates";
import { showMoney } from "../../ui/money";
import type { Paged } from "../../ui/pages";
import type { Arrangement, Column } from "../../ui/table/column";
import { Table } from "../../ui/table/Table";
import { placeOf } from "./place";

type Part = Schemas["Part"];

/** What parts can be grouped by; the server sorts and groups. */
export const groups = [
  ["kind", "By kind"],
  ["model", "By model"],
  ["where", "By place"],
  ["supplier", "By supplier"],
  ["lot", "By lot"],
] as const;

export function PartTable({
  parts,
  label,
  how,
  onArrange,
  pages,
  selected,
  onSelect,
}: {
  parts: readonly Part[];
  /** Words of a kind of part. */
  label: (kind: string) => string;
  how: Arrangement;
  onArrange: (to: Partial<Arrangement>) => void;
  pages?: Paged;
  selected?: readonly number[];
  onSelect?: (ids: readonly number[]) => void;
}) {
  const groupOf: Record<string, (p: Part) => string> = {
    kind: (p) => label(p.kind),
    model: (p) => p.model || "unnamed",
    where: (p) => p.places.find((place) => !place.to)?.machine ?? (p.shelf ? `shelf: ${p.shelf}` : "no place named"),
    supplier: (p) => p.supplier || "no supplier named",
    lot: (p) => p.lot || "no lot named",
  };
  const columns: Column<Part>[] = [
    {
      key: "model",
      label: "Part",
      sort: true,
      names: true,
      cell: (p) => (
        <Link data-row to={`/part/${p.id}`} className="block min-h-11 px-3 py-1 compact:min-h-8">
          <b>{p.model || "unnamed"}</b> <GradeMark grade={p.grade} word={false} />
          <span className="block text-sm text-dim compact:ml-2 compact:inline">{label(p.kind)}</span>
        </Link>
      ),
    },
    {
      key: "tag",
      label: "Tag",
      sort: true,
      className: "px-3 py-1 font-mono",
      cell: (p) => (
        <>
          {p.tag}
          {p.serial && <span className="block text-sm text-dim compact:ml-2 compact:inline">{p.serial}</span>}
        </>
      ),
    },
    {
      key: "where",
      label: "Where",
      sort: true,
      cell: (p) => (
        <>
          {placeOf(p).words}
          {p.forMachineName && placeOf(p).where === "shelf" && <b className="ml-2">for {p.forMachineName}</b>}
        </>
      ),
    },
    {
      key: "lot",
      label: "Lot",
      sort: true,
      cell: (p) =>
        p.lot && (
          <Link
            className="inline-flex min-h-10 items-center underline underline-offset-4 compact:min-h-0"
            to={`/lot?lot=${encodeURIComponent(p.lot)}`}
          >
            {p.lot}
          </Link>
        ),
    },
    { key: "supplier", label: "Supplier", sort: true, cell: (p) => p.supplier },
    {
      key: "bought",
      label: "Bought",
      sort: true,
      cell: (p) => <span className="whitespace-nowrap">{showDay(p.boughtOn)}</span>,
    },
    { key: "price", label: "Price", sort: true, figures: true, cell: (p) => showMoney(p.price) },
  ];
  return (
    <Table
      label="parts"
      rows={parts}
      columns={columns}
      keyOf={(p) => p.id}
      nameOf={(p) => p.model || `part ${p.id}`}
      how={how}
      onArrange={onArrange}
      groupOf={groupOf[how.group]}
      pages={pages}
      selected={selected}
      onSelect={onSelect && ((ids) => onSelect(ids.map(Number)))}
    />
  );
}
