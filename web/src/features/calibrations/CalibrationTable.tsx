import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { State } from "../../ui/badges";
import { showDay } from "../../ui/dates";
import { ArrangeBar } from "../../ui/table/ArrangeBar";
import type { Arrangement, Column } from "../../ui/table/column";
import { Table } from "../../ui/table/Table";
import { useArranged } from "../../ui/table/useArranged";

type Row = Schemas["CalibrationRow"];

const tones = {
  valid: "good",
  invalid: "look",
  "cannot be told": "look",
  failed: "bad",
  "never recorded": "dim",
} as const;

/** What stands first when the states are sorted: what needs a hand. */
const order = ["failed", "invalid", "cannot be told", "never recorded", "valid"];

export function CalibrationTable({
  book,
  how,
  onArrange,
}: {
  book: Schemas["CalibrationBook"];
  how: Arrangement;
  onArrange: (to: Partial<Arrangement>) => void;
}) {
  const titles = new Map(book.kinds.map((k) => [k.kind as string, k.title]));
  const columns: Column<Row>[] = [
    {
      key: "machine",
      label: "Machine",
      sort: true,
      group: true,
      names: true,
      value: (r) => r.machine,
      cell: (r) => (
        <Link
          data-row
          to={`/machine/${r.machineId}?calibration=${r.kind}${r.subject ? `&subject=${encodeURIComponent(r.subject)}` : ""}`}
          className="flex min-h-11 items-center gap-2 px-3 font-bold compact:min-h-8"
        >
          {r.machine} <span className="font-normal text-dim">{r.bay}</span>
        </Link>
      ),
    },
    { key: "bay", label: "Bay", filter: true, hidden: true, value: (r) => r.bay },
    {
      key: "kind",
      label: "Calibration",
      filter: true,
      group: true,
      sort: true,
      values: book.kinds.map((k) => [k.kind, k.title] as const),
      value: (r) => r.kind,
      words: (kind) => titles.get(kind) ?? kind,
      cell: (r) => (
        <>
          {r.title}
          {r.name && <span className="ml-2 text-dim">{r.name}</span>}
        </>
      ),
    },
    {
      key: "state",
      label: "State",
      sort: true,
      value: (r) => order.indexOf(r.state),
      cell: (r) => (
        <>
          <State tone={tones[r.state]}>{r.state}</State>
          {r.because && <span className="block text-sm">{r.because}</span>}
          {r.differs && <span className="block text-sm text-look">▲ {r.differs}</span>}
        </>
      ),
    },
    { key: "is", label: "State", filter: true, group: true, hidden: true, value: (r) => r.state },
    {
      key: "value",
      label: "Value",
      className: "px-3 py-1 font-mono",
      cell: (r) => r.value && `${r.value}${r.unit && !r.value.endsWith(r.unit) ? ` ${r.unit}` : ""}`,
    },
    { key: "store", label: "Kept in", filter: true, value: (r) => r.store, cell: (r) => r.store },
    {
      key: "on",
      label: "Made",
      sort: true,
      value: (r) => r.on,
      cell: (r) => (
        <span className="whitespace-nowrap" title={r.method}>
          {showDay(r.on)} {r.by}
        </span>
      ),
    },
  ];
  // The kind was narrowed by the server.
  const shown = useArranged(book.rows, columns, { ...how, only: { ...how.only, kind: "" } });
  return (
    <>
      <ArrangeBar rows={book.rows} columns={columns} how={how} onArrange={onArrange}>
        <span className="text-dim">
          {shown.length} of {book.rows.length} shown
        </span>
      </ArrangeBar>
      <Table
        label="calibrations"
        rows={shown}
        columns={columns}
        keyOf={(r) => `${r.machineId} ${r.kind} ${r.subject}`}
        how={how}
        onArrange={onArrange}
      />
    </>
  );
}
