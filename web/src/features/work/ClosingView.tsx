import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { showDay } from "../../ui/dates";

/** What a finished order did to the record. */
export function ClosingView({ order, closing }: { order: Schemas["Order"]; closing: Schemas["Closing"] }) {
  return (
    <section aria-labelledby="closing" className="mb-6 border-l-4 border-good bg-good-wash px-5 py-4">
      <h2 id="closing" className="text-2xl font-bold">
        Finished {showDay(order.closedAt)} by {order.closedBy}
      </h2>
      <div className="mt-3 grid gap-6 md:grid-cols-2">
        <Block title="Fitted" list={closing.exchanges.map((x) => `${x.label}: ${x.before} → ${x.after}`)} />
        <Block title="Recorded" list={closing.recorded} />
        <Block
          title="No longer valid"
          list={closing.voided.map((v) => `${v.title}${v.value ? ` (${v.value})` : ""}: ${v.reason}`)}
        />
        <div>
          <Block title="Not known yet" list={closing.missing} />
          {closing.missing.length > 0 && (
            <Link
              className="no-print inline-flex min-h-11 items-center font-semibold underline underline-offset-4"
              to={`/machine/${order.machineId}`}
            >
              Record it on the machine's sheet
            </Link>
          )}
        </div>
      </div>
    </section>
  );
}

function Block({ title, list }: { title: string; list: readonly string[] }) {
  return (
    <div>
      <h3 className="font-bold">{title}</h3>
      {list.length === 0 ? (
        <p>Nothing.</p>
      ) : (
        <ul className="list-disc pl-5">
          {list.map((l) => (
            <li key={l}>{l}</li>
          ))}
        </ul>
      )}
    </div>
  );
}
