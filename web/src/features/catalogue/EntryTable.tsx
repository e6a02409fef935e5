import { ArrangeBar } from "../../ui/table/ArrangeBar";
import type { Column } from "../../ui/table/column";
import { Table } from "../../ui/table/Table";
import { useArranged } from "../../ui/table/useArranged";
import { useArrangement } from "../../ui/table/useArrangement";
import type { EntryRow } from "./rows";

/** The entries of a section of the catalogue, each a row that opens it. */
export function EntryTable({ rows, onOpen }: { rows: readonly EntryRow[]; onOpen: (key: string) => void }) {
  const grouped = rows.some((r) => r.group);
  const [how, arrange] = useArrangement({ sort: "name", group: grouped ? "group" : "" });
  const columns: Column<EntryRow>[] = [
    {
      key: "name",
      label: "Name",
      sort: true,
      names: true,
      value: (r) => r.name,
      cell: (r) => (
        <button
          type="button"
          data-row
          className={`min-h-11 px-3 py-1 text-left font-bold underline-offset-4 hover:underline compact:min-h-8 ${r.superseded ? "line-through" : ""}`}
          onClick={() => onOpen(r.key)}
        >
          {r.name}
        </button>
      ),
    },
    { key: "group", label: "Kind", filter: grouped, group: grouped, hidden: true, value: (r) => r.group },
    {
      key: "maker",
      label: "Maker",
      sort: true,
      filter: rows.some((r) => r.maker),
      group: rows.some((r) => r.maker),
      hidden: !rows.some((r) => r.maker),
      value: (r) => r.maker,
      cell: (r) => r.maker,
    },
    {
      key: "text",
      label: "What it says",
      cell: (r) => (
        <span className="block min-w-52 break-words">{r.superseded ? `superseded by ${r.superseded}` : r.text}</span>
      ),
    },
    {
      key: "from",
      label: "From",
      sort: true,
      filter: true,
      value: (r) => r.from,
      cell: (r) => <span className="text-dim">{r.from}</span>,
    },
    { key: "used", label: "In use", sort: true, figures: true, value: (r) => r.used, cell: (r) => r.used || "" },
  ];
  return (
    <>
      <ArrangeBar rows={rows} columns={columns} how={how} onArrange={arrange} />
      <Table
        label="entries"
        rows={useArranged(rows, columns, how)}
        columns={columns}
        keyOf={(r) => r.key}
        how={how}
        onArrange={arrange}
      />
    </>
  );
}
