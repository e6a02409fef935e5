import type { Schemas } from "../../api/client";
import { State } from "../../ui/badges";
import { showDay } from "../../ui/dates";
import { ArrangeBar } from "../../ui/table/ArrangeBar";
import type { Arrangement, Column } from "../../ui/table/column";
import { Table } from "../../ui/table/Table";
import { useArranged } from "../../ui/table/useArranged";

type Fault = Schemas["ReportedFault"];

/** Faults, each a row that opens it. */
export function FaultTable({
  book,
  how,
  onArrange,
  onOpen,
}: {
  book: Schemas["FaultBook"];
  how: Arrangement;
  onArrange: (to: Partial<Arrangement>) => void;
  onOpen: (id: number) => void;
}) {
  const titles = new Map(book.symptoms.map((s) => [s.key, s.title]));
  const columns: Column<Fault>[] = [
    {
      key: "machine",
      label: "Machine",
      sort: true,
      group: true,
      names: true,
      value: (f) => f.machine,
      cell: (f) => (
        <button
          type="button"
          data-row
          className="min-h-11 px-3 py-1 text-left font-bold underline-offset-4 hover:underline compact:min-h-8"
          onClick={() => onOpen(f.id)}
        >
          {f.machine}
        </button>
      ),
    },
    {
      key: "symptom",
      label: "Symptom",
      sort: true,
      filter: true,
      group: true,
      value: (f) => titles.get(f.symptom ?? ""),
      cell: (f) => titles.get(f.symptom ?? ""),
    },
    { key: "words", label: "In their words", cell: (f) => <span className="line-clamp-2 min-w-48">{f.words}</span> },
    {
      key: "at",
      label: "Reported",
      sort: true,
      value: (f) => f.at,
      cell: (f) => <span className="whitespace-nowrap">{showDay(f.at)}</span>,
    },
    { key: "by", label: "By", sort: true, filter: true, value: (f) => f.by, cell: (f) => f.by },
    {
      key: "state",
      label: "State",
      sort: true,
      group: true,
      value: stateOf,
      cell: (f) => (
        <State tone={f.closedAt ? "good" : f.takenBy ? "look" : "bad"}>
          {f.closedAt
            ? `closed ${showDay(f.closedAt)}`
            : f.takenBy
              ? `${f.mine ? "you are" : `${f.takenBy} is`} on it`
              : "open"}
        </State>
      ),
    },
  ];
  return (
    <>
      <ArrangeBar rows={book.faults} columns={columns} how={how} onArrange={onArrange} />
      <Table
        label="faults"
        rows={useArranged(book.faults, columns, how)}
        columns={columns}
        keyOf={(f) => f.id}
        how={how}
        onArrange={onArrange}
      />
    </>
  );
}

function stateOf(f: Fault): string {
  return f.closedAt ? "closed" : f.takenBy ? "somebody is on it" : "open";
}
