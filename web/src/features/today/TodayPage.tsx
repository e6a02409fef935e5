import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Link } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { State } from "../../ui/badges";
import { showDay } from "../../ui/dates";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { useSession } from "../../ui/session";
import { Loaded } from "../../ui/states";
import { alongRows } from "../../ui/table/arrows";

/** Tasks shown here; the rest stands under Maintenance. */
const MOST_FAULTS = 6;
const MOST = 18;

/** What comes next: safety first, then work that is open, faults, and what is due. */
export default function TodayPage() {
  const session = useSession();
  const due = useQuery({
    queryKey: keys.due("today"),
    queryFn: () => unwrap(api.GET("/api/due", { params: { query: { within: 7 } } })),
  });
  const orders = useQuery({ queryKey: keys.orders(), queryFn: () => unwrap(api.GET("/api/work")) });
  const faults = useQuery({
    queryKey: keys.faults(0, "open"),
    queryFn: () => unwrap(api.GET("/api/faults", { params: { query: { show: "open" } } })),
  });
  return (
    <Page
      title="Today"
      lead={`${showDay(session.today)}${session.shop.name && `, ${session.shop.name}`}`}
      actions={
        <>
          <LinkButton to="/faults?report=1">Report a fault</LinkButton>
          <LinkButton to="/identify">Inspect</LinkButton>
        </>
      }
    >
      {due.data && <Safety due={due.data} />}
      <div className="grid items-start gap-x-8 gap-y-6 xl:grid-cols-[minmax(0,3fr)_minmax(0,2fr)]">
        <Loaded query={due} what="Working out what is due">
          {(d) => <DueSoon due={d} />}
        </Loaded>
        <div className="space-y-6">
          <Loaded query={orders} what="Reading the work orders">
            {(o) => <OpenWork orders={o} me={session.account} />}
          </Loaded>
          <Loaded query={faults} what="Reading the faults">
            {(book) => <OpenFaults book={book} />}
          </Loaded>
        </div>
      </div>
    </Page>
  );
}

function Section({
  title,
  count,
  more,
  children,
}: {
  title: string;
  count: number;
  more: ReactNode;
  children: ReactNode;
}) {
  return (
    <section>
      <h2 className="mb-1 flex items-baseline justify-between gap-4 border-b-2 border-line pb-1 text-xl font-bold">
        <span>
          {title} <span className="font-normal text-dim">{count}</span>
        </span>
        <span className="text-base font-normal">{more}</span>
      </h2>
      {children}
    </section>
  );
}

const link = "inline-flex min-h-10 items-center underline underline-offset-4";

/** One line with a count and one action: the machine whose test is longest due. */
function Safety({ due }: { due: Schemas["DueList"] }) {
  const first = due.rows.find((r) => r.state === "not proven");
  const machines = due.undated.find((u) => u.state === "not proven")?.machines ?? 0;
  if (!first) return null;
  return (
    <p className="mb-4 flex flex-wrap items-center gap-x-4 border-l-4 border-bad bg-bad-wash px-4 py-1.5">
      <span>
        <b>
          Protection not proven on {machines} {machines === 1 ? "machine" : "machines"}:
        </b>{" "}
        stay with them while they print.
      </span>
      <Link className={`${link} font-semibold`} to={`/machine/${first.machineId}?calibration=protection`}>
        Test {first.machine} first
      </Link>
      <Link className={link} to="/due">
        All of them
      </Link>
    </p>
  );
}

const tones: Record<string, "look" | "cond" | "dim"> = { overdue: "look", soon: "cond", later: "dim" };

function DueSoon({ due }: { due: Schemas["DueList"] }) {
  const dated = due.rows.filter((r) => r.on && r.task !== "protection-test");
  const found = due.found - due.rows.filter((r) => r.on).length + dated.length;
  return (
    <Section
      title="Due within a week"
      count={found}
      more={
        <Link className={link} to="/due">
          All maintenance
        </Link>
      }
    >
      {dated.length === 0 && <p className="py-2 text-dim">Nothing is due this week.</p>}
      {/* biome-ignore lint/a11y/noStaticElementInteractions: only passes arrow keys on to the links inside */}
      <div className="relative overflow-x-auto bg-leaf" onKeyDown={alongRows}>
        <table className="w-full">
          <tbody>
            {dated.slice(0, MOST).map((r) => (
              <tr key={`${r.machineId}-${r.task}`} className="border-b border-rule hover:bg-wash">
                <th scope="row" className="p-0 text-left">
                  <Link data-row className="flex min-h-10 items-center px-3 font-bold" to={`/machine/${r.machineId}`}>
                    {r.machine}
                  </Link>
                </th>
                <td className="px-3 py-1">{r.title}</td>
                <td className="px-3 py-1 whitespace-nowrap">
                  <State tone={tones[r.state] ?? "dim"}>{r.words}</State>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {found > MOST && (
          <p className="px-3 py-2 text-dim">
            The {MOST} most urgent of {found} are shown.
          </p>
        )}
      </div>
    </Section>
  );
}

function OpenWork({ orders, me }: { orders: readonly Schemas["OrderHead"][]; me: number }) {
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

function OpenFaults({ book }: { book: Schemas["FaultBook"] }) {
  return (
    <Section
      title="Faults that are open"
      count={book.faults.length}
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
            {MOST_FAULTS} of {book.faults.length} are shown.
          </li>
        )}
      </ul>
    </Section>
  );
}
