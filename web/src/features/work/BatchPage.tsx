import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { Fault } from "../../ui/form";
import { Page } from "../../ui/Page";
import { useMayWork } from "../../ui/session";
import { Loaded } from "../../ui/states";
import type { Column } from "../../ui/table/column";
import { Table } from "../../ui/table/Table";
import { useJob } from "../../ui/useJob";
import { useWrite } from "../../ui/write";

type Batch = Schemas["Batch"];
type Row = Batch["rows"][number];
type Cell = Row["cells"][number];

/** One change on several machines: its steps as rows, ticked machine by machine. */
export default function BatchPage() {
  const id = Number(useParams().id);
  const query = useQuery({
    queryKey: keys.batch(id),
    queryFn: () => unwrap(api.GET("/api/work/{id}/batch", { params: { path: { id } } })),
    refetchInterval: 4_000, // others at the same work see each tick within seconds
  });
  return (
    <Loaded query={query} what="Reading the work orders">
      {(batch) => <BatchView batch={batch} />}
    </Loaded>
  );
}

function BatchView({ batch }: { batch: Batch }) {
  useJob();
  const mayWork = useMayWork();
  const { write, busy, fault } = useWrite();
  const tick = (order: number, row: Row, cell: Cell) =>
    write(() =>
      unwrap(
        api.POST("/api/work/{id}/steps/{step}", {
          params: { path: { id: order, step: row.key } },
          body: { version: cell.version ?? 0, data: {}, note: cell.note ?? "", do: "tick" },
        }),
      ),
    );
  const columns: Column<Row>[] = [
    {
      key: "step",
      label: "Step",
      names: true,
      className: "min-w-56 px-3 py-1 text-left",
      cell: (r) => (
        <>
          <b>{r.title}</b> <span className="text-sm text-dim">{r.phase}</span>
          {r.cells.some((c) => c.state === "next") && <span className="block max-w-2xl">{r.do}</span>}
        </>
      ),
    },
    ...batch.orders.map(
      (o, i): Column<Row> => ({
        key: String(o.id),
        label: o.machine,
        head: (
          <Link className="inline-flex min-h-10 items-center underline underline-offset-4" to={`/work/${o.id}`}>
            {o.machine}
            <span className="ml-2 font-normal text-dim">
              {o.state === "open" ? `${o.done} of ${o.steps}` : o.state}
            </span>
          </Link>
        ),
        className: "px-3 py-1 text-center",
        cell: (r) => {
          const cell = r.cells[i];
          return cell && <BatchCell row={r} order={o} cell={cell} busy={busy} mayWork={mayWork} onTick={tick} />;
        },
      }),
    ),
  ];
  return (
    <Page
      title={`${batch.kit} on ${batch.orders.length} machines`}
      lead="Each machine keeps an order of its own: what has to be typed, skipped or is found otherwise is said there."
    >
      <Fault text={fault} />
      <Table label="steps" rows={batch.rows} columns={columns} keyOf={(r) => r.key} arrows="cells" />
    </Page>
  );
}

function BatchCell({
  row,
  order,
  cell,
  busy,
  mayWork,
  onTick,
}: {
  row: Row;
  order: Schemas["OrderHead"];
  cell: Cell;
  busy: boolean;
  mayWork: boolean;
  onTick: (order: number, row: Row, cell: Cell) => void;
}) {
  const name = `${row.title}, ${order.machine}`;
  if (cell.state === "none") return <span className="text-dim">not there</span>;
  if (cell.state === "done" || cell.state === "skipped")
    return (
      <span title={cell.note} className={cell.state === "done" ? "text-good" : "text-look"}>
        {cell.state === "done" ? "■ done" : "▲ skipped"} <span className="text-sm text-dim">{cell.by}</span>
      </span>
    );
  if (cell.state === "next" && mayWork && row.form === "tick" && !row.licensed)
    return (
      <button
        type="button"
        data-cell
        disabled={busy}
        aria-label={`Done: ${name}`}
        className="min-h-11 border-2 border-accent bg-leaf px-4 font-semibold hover:bg-wash compact:min-h-8"
        onClick={() => onTick(order.id, row, cell)}
      >
        Done
      </button>
    );
  if (cell.state === "next")
    return (
      <Link
        data-cell
        className="inline-flex min-h-11 items-center font-semibold underline underline-offset-4 compact:min-h-8"
        aria-label={`To its order: ${name}`}
        to={`/work/${order.id}`}
      >
        its turn
      </Link>
    );
  return <span className="text-dim">to do</span>;
}
