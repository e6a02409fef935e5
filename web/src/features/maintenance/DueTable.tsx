import type { ReactNode } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { State } from "../../ui/badges";
import { showDay } from "../../ui/dates";
import { Button } from "../../ui/form";
import { useMayWork } from "../../ui/session";
import { Empty } from "../../ui/states";
import { ArrangeBar } from "../../ui/table/ArrangeBar";
import type { Arrangement, Column } from "../../ui/table/column";
import { Table } from "../../ui/table/Table";
import { useArranged } from "../../ui/table/useArranged";
import { MachineName, type Row } from "./MachineName";
import { dateOf, weekOf } from "./when";

const tones = { overdue: "look", soon: "cond", later: "dim" } as const;

type Dated = keyof typeof tones;

/** The tasks that have a date, the most urgent first. */
export function DueTable({
  due,
  how,
  onArrange,
  onDone,
  children,
}: {
  due: Schemas["DueList"];
  how: Arrangement;
  onArrange: (to: Partial<Arrangement>) => void;
  onDone: (row: Row) => void;
  children: ReactNode;
}) {
  const mayWork = useMayWork();
  const rows = due.rows.filter((r) => r.on);
  const columns: Column<Row>[] = [
    { key: "on", label: "When", sort: true, value: (r) => r.on, cell: (r) => <When row={r} /> },
    {
      key: "week",
      label: "Week",
      group: true,
      value: (r) => weekOf(r),
      words: (w) => `Week of ${showDay(w)}`,
      hidden: true,
    },
    {
      key: "machine",
      label: "Machine",
      sort: true,
      group: true,
      names: true,
      className: "px-3 py-2 compact:py-0.5",
      value: (r) => r.machine,
      cell: (r) => <MachineName row={r} />,
    },
    {
      key: "bay",
      label: "Bay",
      values: due.bays.map((b) => [b, b] as const),
      filter: true,
      group: true,
      value: (r) => r.bay,
      hidden: true,
    },
    {
      key: "task",
      label: "Task",
      values: due.tasks.map((t) => [t.key, t.title] as const),
      sort: true,
      filter: true,
      group: true,
      value: (r) => r.title,
      className: "px-3 py-2 compact:py-0.5 compact:whitespace-nowrap",
      cell: (r) => (
        <>
          {r.title}
          {r.why && <span className="block text-sm">{r.why}</span>}
        </>
      ),
    },
    {
      key: "used",
      label: "Used / limit",
      className: "px-3 py-2 text-dim compact:py-0.5",
      cell: (r) => (
        <>
          {r.used}
          <span className="block text-sm compact:ml-3 compact:inline">
            {r.lastDone ? `last done ${showDay(r.lastDone)}` : "never recorded"}
            {r.rests && `; ${r.rests}`}
          </span>
        </>
      ),
    },
    {
      key: "do",
      label: "",
      className: "px-3 py-2 text-right compact:py-0.5",
      cell: (r) => mayWork && <Do row={r} onDone={onDone} />,
    },
  ];
  // The server has narrowed the list; here it is sorted and grouped.
  const shown = useArranged(rows, columns, { ...how, only: {} });
  return (
    <>
      <ArrangeBar rows={rows} columns={columns} how={how} onArrange={onArrange}>
        {children}
        <span className="text-dim">
          {due.found > rows.length && `${rows.length} are shown of `}
          {due.found} of {due.dated} with a date
        </span>
      </ArrangeBar>
      {rows.length === 0 ? (
        <Empty title="Nothing with a date comes up in this view.">
          <Button onClick={() => onArrange({ only: { span: "" } })}>Show everything</Button>
        </Empty>
      ) : (
        <Table
          label="maintenance tasks"
          rows={shown}
          columns={columns}
          keyOf={(r) => `${r.machineId} ${r.task}`}
          how={how}
          onArrange={onArrange}
        />
      )}
    </>
  );
}

function When({ row }: { row: Row }) {
  return (
    <div className="compact:flex compact:items-baseline compact:gap-x-3">
      <span className="compact:w-36 compact:shrink-0">
        <State tone={tones[row.state as Dated]}>{row.words}</State>
      </span>
      <span className="block max-w-64 text-sm text-dim compact:max-w-none">{dateOf(row)}</span>
    </div>
  );
}

function Do({ row, onDone }: { row: Row; onDone: (row: Row) => void }) {
  if (row.task === "protection-test")
    return (
      <Link
        data-row
        className="inline-flex min-h-11 items-center compact:min-h-8 border-2 border-line bg-leaf px-4 font-semibold whitespace-nowrap hover:border-accent"
        to={`/machine/${row.machineId}?calibration=protection`}
      >
        Test it
      </Link>
    );
  return (
    <Button data-row className="whitespace-nowrap compact:min-h-8" onClick={() => onDone(row)}>
      Done …
    </Button>
  );
}
