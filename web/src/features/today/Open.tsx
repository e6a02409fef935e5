import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { showDay } from "../../ui/dates";
import { link, Section } from "./Section";

/** Faults shown here; the rest stands under Faults. */
const MOST_FAULTS = 6;

export function OpenWork({ orders, me }: { orders: readonly Schemas["OrderHead"][]; me: number }) {
  const open = orders.filter((o) => o.state === "open");
  const mine = (o: Schemas["OrderHead"]) => Number(o.openedById === me);
  const shown = open.toSorted((a, b) => mine(b) - mine(a));
  return (
    <Section
      title="Work that is open"
      count={open.length}
      more={
        <Link className={link} to="/work">
          All work orders
        </Link>
      }
    >
      {open.length === 0 && <p className="py-2 text-dim">No machine is locked out.</p>}
      <ul className="bg-leaf">
        {shown.map((o) => (
          <li key={o.id} className="border-b border-rule">
            <Link className="flex min-h-11 flex-wrap items-center gap-x-3 px-3 py-1 hover:bg-wash" to={`/work/${o.id}`}>
              <b>{o.machine}</b> {o.kit}
              <span className="ml-auto text-dim">
                {o.done} of {o.steps} steps, {o.openedById === me ? "you" : o.openedBy}
              </span>
            </Link>
          </li>
        ))}
      </ul>
    </Section>
  );
}

export function OpenFaults({ book }: { book: Schemas["FaultBook"] }) {
  return (
    <Section
      title="Faults that are open"
      count={book.found}
      more={
        <Link className={link} to="/faults">
          All faults
        </Link>
      }
    >
      {book.faults.length === 0 && <p className="py-2 text-dim">No fault is open.</p>}
      <ul className="bg-leaf">
        {book.faults.slice(0, MOST_FAULTS).map((f) => (
          <li key={f.id} className="border-b border-rule">
            <Link className="block min-h-11 px-3 py-1 hover:bg-wash" to={`/faults?machine=${f.machineId}`}>
              <b>{f.machine}</b> {f.words}
              <span className="block text-sm text-dim">
                {f.by}, {showDay(f.at)}
                {f.takenBy && ` · ${f.mine ? "you are" : `${f.takenBy} is`} on it`}
              </span>
            </Link>
          </li>
        ))}
        {book.faults.length > MOST_FAULTS && (
          <li className="px-3 py-2 text-dim">
            {MOST_FAULTS} of {book.found} are shown.
          </li>
        )}
      </ul>
    </Section>
  );
}
