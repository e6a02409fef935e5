import { useQuery } from "@tanstack/react-query";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { dayAfter } from "../../ui/clock";
import { DayInput } from "../../ui/DayInput";
import { showDay } from "../../ui/dates";
import { Field, Select } from "../../ui/form";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { dayPages, SubPlaces } from "../../ui/SubPlaces";
import { useSession } from "../../ui/session";
import { Loaded } from "../../ui/states";
import { useInAddress } from "../../ui/table/useInAddress";
import { Weeks } from "./Weeks";

type Row = Schemas["ReliabilityRow"];

/** How the fleet did: availability, time between failures and to repair, planned against unplanned work. */
export default function ReliabilityPage() {
  const { today } = useSession();
  const day = today.slice(0, 10);
  const [view, setView] = useInAddress({ from: dayAfter(day, -83), to: day, by: "bay" });
  const asked = { from: view.from, to: view.to, by: view.by as "bay" | "model" | "machine" };
  const query = useQuery({
    queryKey: keys.reliability(asked),
    queryFn: () => unwrap(api.GET("/api/reliability", { params: { query: asked } })),
  });
  return (
    <Page
      title="Reliability"
      lead={`${showDay(view.from)} to ${showDay(view.to)}`}
      actions={<LinkButton href={`/api/reliability.csv?${new URLSearchParams(asked)}`}>As a table (CSV)</LinkButton>}
    >
      <SubPlaces label="Days" pages={dayPages} />
      <div className="mb-4 flex flex-wrap items-end gap-3">
        <div className="w-52">
          <Field label="From" htmlFor="rel-from">
            <DayInput id="rel-from" value={view.from} onChange={(from) => from && setView({ from })} />
          </Field>
        </div>
        <div className="w-52">
          <Field label="Until" htmlFor="rel-to">
            <DayInput id="rel-to" value={view.to} onChange={(to) => to && setView({ to })} />
          </Field>
        </div>
        <div className="w-44">
          <Field label="By" htmlFor="rel-by">
            <Select
              id="rel-by"
              value={view.by}
              onChange={(by) => setView({ by })}
              options={[
                ["bay", "bay"],
                ["model", "model"],
                ["machine", "machine"],
              ]}
            />
          </Field>
        </div>
      </div>
      <Loaded query={query} what="Counting hours and faults">
        {(list) => (
          <>
            {!list.told && (
              <p className="mb-3 border-l-4 border-look bg-look-wash px-3 py-2">
                The shop has not told its opening hours: every hour counts as one in which a machine is asked for.
              </p>
            )}
            <div className="relative overflow-x-auto bg-leaf">
              <table className="w-full">
                <thead>
                  <tr className="border-b-2 border-line text-left align-bottom">
                    <th className="px-3 py-1">{list.by}</th>
                    <th className="px-3 py-1 text-right">machines</th>
                    <th className="px-3 py-1 text-right">available, %</th>
                    <th className="px-3 py-1">week by week, %</th>
                    <th className="px-3 py-1 text-right">failures</th>
                    <th className="px-3 py-1 text-right">between failures, h</th>
                    <th className="px-3 py-1 text-right">to repair, h</th>
                    <th className="px-3 py-1">planned and unplanned work, h</th>
                  </tr>
                </thead>
                <tbody>
                  {list.rows.map((r) => (
                    <Line key={r.name} row={r} mondays={list.mondays} />
                  ))}
                  <Line row={list.all} mondays={list.mondays} sum />
                </tbody>
              </table>
            </div>
            <p className="mt-3 max-w-4xl text-sm text-dim">
              Available: opening hours in which a machine was neither out of use nor had work open, of all opening
              hours. Between failures: those hours by the faults reported; "–" where none was. To repair: from report to
              close, by the clock. After IEC 60050-192.
            </p>
          </>
        )}
      </Loaded>
    </Page>
  );
}

const hours = (n: number | undefined) => (n === undefined ? "–" : n >= 100 ? Math.round(n) : n.toFixed(1));

function Line({ row: r, mondays, sum }: { row: Row; mondays: readonly string[]; sum?: boolean }) {
  const work = r.planned + r.unplanned;
  return (
    <tr className={sum ? "border-t-2 border-line font-bold" : "border-b border-rule"}>
      <th scope="row" className="px-3 py-1 text-left">
        {r.name}
      </th>
      <td className="px-3 py-1 text-right">{r.machines}</td>
      <td className="px-3 py-1 text-right">{r.available === undefined ? "–" : (100 * r.available).toFixed(1)}</td>
      <td className="px-3 py-1">
        <Weeks of={r.name} weeks={r.weeks} mondays={mondays} />
      </td>
      <td className="px-3 py-1 text-right">{r.failures}</td>
      <td className="px-3 py-1 text-right">{hours(r.between)}</td>
      <td className="px-3 py-1 text-right">{hours(r.toRepair)}</td>
      <td className="px-3 py-1">
        <span className="flex items-center gap-2">
          <span aria-hidden="true" className="flex h-4 w-32 border border-line bg-wall">
            <span className="bg-accent" style={{ width: `${work ? (100 * r.planned) / work : 0}%` }} />
            <span
              className="bg-[repeating-linear-gradient(45deg,var(--look)_0_4px,transparent_4px_8px)]"
              style={{ width: `${work ? (100 * r.unplanned) / work : 0}%` }}
            />
          </span>
          <span className="whitespace-nowrap">
            {hours(r.planned / 60)} and {hours(r.unplanned / 60)}
          </span>
        </span>
      </td>
    </tr>
  );
}
