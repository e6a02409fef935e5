import { Link } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { State } from "../../ui/badges";
import { showDay } from "../../ui/dates";
import { Page } from "../../ui/Page";
import { More, PAGE, usePages } from "../../ui/pages";
import { SubPlaces, workPages } from "../../ui/SubPlaces";
import { Empty, Loaded } from "../../ui/states";

const tones = { planned: "dim", open: "look", finished: "good", abandoned: "dim" } as const;

export default function WorkPage() {
  const { query, rows, first } = usePages(
    keys.orders("pages"),
    (offset) => unwrap(api.GET("/api/work", { params: { query: { offset, limit: PAGE } } })),
    (p) => p.rows,
    (p) => p.found,
  );
  return (
    <Page title="Work" lead="A machine with an open order is locked out.">
      <SubPlaces label="Work" pages={workPages} />
      <Loaded query={query} what="Reading the work orders">
        {() =>
          rows.length === 0 ? (
            <Empty title="No work order yet.">
              An order is opened from a verdict that fits:{" "}
              <Link className="inline-flex min-h-10 items-center underline underline-offset-4" to="/ask">
                does it fit?
              </Link>
            </Empty>
          ) : (
            <>
              <ul className="bg-leaf">
                {rows.map((o) => (
                  <OrderLine key={o.id} order={o} />
                ))}
              </ul>
              <More query={query} shown={rows.length} found={first?.found ?? 0} what="work orders" />
            </>
          )
        }
      </Loaded>
    </Page>
  );
}

function OrderLine({ order: o }: { order: Schemas["OrderHead"] }) {
  return (
    <li className="border-b border-rule">
      <Link
        to={`/work/${o.id}`}
        className="grid items-center gap-x-6 gap-y-1 px-4 py-3 hover:bg-wash sm:grid-cols-[3rem_minmax(0,1fr)_12rem_9rem]"
      >
        <span className="font-mono text-2xl font-bold">{o.id}</span>
        <span>
          <b className="text-lg">{o.machine}</b> · {o.kit}
          <span className="block text-sm text-dim">
            {o.reason} · {o.state === "planned" ? "planned" : "opened"} {showDay(o.openedAt)} by {o.openedBy}
            {o.closedAt && `, closed ${showDay(o.closedAt)} by ${o.closedBy}`}
          </span>
        </span>
        <span>
          <span className="mb-1 block h-2 border border-line bg-wall">
            <span className="block h-full bg-accent" style={{ width: `${(100 * o.done) / Math.max(o.steps, 1)}%` }} />
          </span>
          {o.state === "planned" ? "waits its turn" : `${o.done} of ${o.steps} steps`}
        </span>
        <State tone={tones[o.state]}>{o.state}</State>
      </Link>
    </li>
  );
}
