import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, type Schemas, take } from "../api/client";
import { alongRows } from "../app/keys";
import { useMayWork, useSession } from "../app/session";
import { fromToday, showDay, showMonth } from "../parts/dates";
import { useDraft } from "../parts/draft";
import { Button, Check, Select, TextInput } from "../parts/form";
import { GradeMark, State } from "../parts/marks";
import { Page } from "../parts/Page";
import { Empty, Loaded } from "../parts/states";

type Row = Schemas["FleetRow"];

const filters: Record<string, { label: string; keep: (r: Row) => boolean }> = {
  all: { label: "All machines", keep: () => true },
  unproven: { label: "Protection not proven", keep: (r) => !r.protection.proven },
  open: { label: "Work open", keep: (r) => Boolean(r.openOrder) },
  conflict: { label: "Readings in conflict", keep: (r) => r.conflicts > 0 },
  void: { label: "Calibrations void", keep: (r) => r.void > 0 },
  due: { label: "Maintenance overdue", keep: (r) => r.next?.state === "overdue" || r.next?.state === "not proven" },
};

const firstColumns = ["mainboard", "firmware", "probe", "extruder"];

export function FleetPage() {
  const query = useQuery({ queryKey: ["fleet"], queryFn: () => take(api.GET("/api/machines")) });
  const mayWork = useMayWork();
  return (
    <Page
      title="Fleet"
      lead="Which machine carries what, how sure, since when."
      actions={
        <>
          <a
            className="inline-flex min-h-11 items-center border-2 border-line bg-leaf px-4 font-semibold hover:border-brass"
            href="/api/register.csv"
            download
          >
            Register as CSV
          </a>
          {mayWork && (
            <Link
              className="inline-flex min-h-11 items-center border-2 border-brass bg-brass px-4 font-semibold text-on-brass"
              to="/machine/new"
            >
              New machine
            </Link>
          )}
        </>
      }
    >
      <Loaded query={query} what="Reading the fleet">
        {(fleet) => <FleetTable fleet={fleet} />}
      </Loaded>
    </Page>
  );
}

function FleetTable({ fleet }: { fleet: Schemas["Fleet"] }) {
  const go = useNavigate();
  const { today } = useSession();
  const [view, setView] = useDraft("fleet", {
    filter: "all",
    bay: "",
    text: "",
    sort: "name",
    down: false,
    columns: firstColumns,
  });
  const [picking, setPicking] = useState(false);
  const set = (change: Partial<typeof view>) => setView({ ...view, ...change });
  const rows = useMemo(() => {
    const needle = view.text.toLowerCase();
    const kept = fleet.machines.filter(
      (r) =>
        (filters[view.filter] ?? filters.all)?.keep(r) &&
        (!view.bay || r.bay === view.bay) &&
        (!needle ||
          `${r.name} ${r.bay} ${r.maker} ${Object.values(r.models)
            .map((m) => m.value)
            .join(" ")}`
            .toLowerCase()
            .includes(needle)),
    );
    const by = (r: Row): string => {
      if (view.sort === "name") return r.name;
      if (view.sort === "bay") return `${r.bay} ${r.name}`;
      if (view.sort === "protection") return `${r.protection.proven} ${r.name}`;
      if (view.sort === "next") return r.next?.state === "not proven" ? "0" : (r.next?.dueOn ?? "9");
      return `${r.models[view.sort]?.value ?? "~"} ${r.name}`;
    };
    kept.sort((a, b) => by(a).localeCompare(by(b), "en", { numeric: true }) * (view.down ? -1 : 1));
    return kept;
  }, [fleet, view]);
  if (fleet.machines.length === 0)
    return (
      <Empty title="No machine is in the register yet.">
        <p>Bring in the sheet you keep now, or enter the first machine by hand.</p>
        <p className="mt-3 flex gap-3">
          <Link className="inline-flex min-h-11 items-center underline" to="/bring-in">
            Bring in a CSV
          </Link>
          <Link className="inline-flex min-h-11 items-center underline" to="/machine/new">
            Enter a machine
          </Link>
        </p>
      </Empty>
    );
  const bays = [...new Set(fleet.machines.map((m) => m.bay).filter(Boolean))].sort();
  const slots = fleet.slots.filter((s) => view.columns.includes(s.key));
  const head = (key: string, label: string) => (
    <th
      key={key}
      scope="col"
      aria-sort={view.sort === key ? (view.down ? "descending" : "ascending") : "none"}
      className="p-0"
    >
      <button
        type="button"
        onClick={() => set(view.sort === key ? { down: !view.down } : { sort: key, down: false })}
        className="flex min-h-11 w-full items-center gap-1 px-3 text-left font-bold hover:bg-wash"
      >
        {label} <span aria-hidden="true">{view.sort === key ? (view.down ? "▾" : "▴") : ""}</span>
      </button>
    </th>
  );
  return (
    <>
      <div className="no-print mb-4 flex flex-wrap items-end gap-3">
        <TextInput
          aria-label="Search the fleet"
          className="max-w-64"
          placeholder="Name or part"
          value={view.text}
          onChange={(text) => set({ text })}
        />
        <Select
          aria-label="Which machines"
          className="max-w-60"
          value={view.filter}
          onChange={(filter) => set({ filter })}
          options={Object.entries(filters).map(
            ([k, f]) => [k, `${f.label} (${fleet.machines.filter(f.keep).length})`] as const,
          )}
        />
        {bays.length > 0 && (
          <Select
            aria-label="Bay"
            className="max-w-44"
            value={view.bay}
            onChange={(bay) => set({ bay })}
            options={bays}
            empty="Every bay"
          />
        )}
        <Button aria-expanded={picking} onClick={() => setPicking(!picking)}>
          Slots shown: {slots.length}
        </Button>
        <span className="text-dim">
          {rows.length} of {fleet.machines.length} machines
        </span>
      </div>
      {picking && (
        <fieldset className="mb-4 grid grid-cols-2 gap-x-6 border-2 border-line bg-leaf px-4 py-2 sm:grid-cols-3 xl:grid-cols-5">
          <legend className="px-1 font-semibold">Slots shown as columns</legend>
          {fleet.slots.map((s) => (
            <Check
              key={s.key}
              label={s.label}
              checked={view.columns.includes(s.key)}
              onChange={(on) =>
                set({ columns: on ? [...view.columns, s.key] : view.columns.filter((c) => c !== s.key) })
              }
            />
          ))}
        </fieldset>
      )}
      {rows.length === 0 ? (
        <Empty title="No machine is like that.">
          <Button onClick={() => set({ filter: "all", bay: "", text: "" })}>Show all machines</Button>
        </Empty>
      ) : (
        // biome-ignore lint/a11y/noStaticElementInteractions: only passes arrow keys on to the row links inside
        <div className="overflow-x-auto bg-leaf" onKeyDown={alongRows}>
          <table className="w-full border-collapse">
            <thead className="border-b-2 border-line bg-wall text-left">
              <tr>
                {head("name", "Machine")}
                {head("protection", "Protection")}
                {slots.map((s) => head(s.key, s.label))}
                {head("next", "Next")}
              </tr>
            </thead>
            <tbody>
              {rows.map((r) => (
                <tr key={r.id} className="border-b border-rule align-top hover:bg-wash">
                  <th scope="row" className="p-0 text-left">
                    <Link
                      data-row
                      to={`/machine/${r.id}`}
                      className="block min-h-12 px-3 py-1.5 text-lg leading-tight font-bold"
                    >
                      {r.name}
                      <span className="block text-sm font-normal text-dim">{r.bay}</span>
                    </Link>
                  </th>
                  <td className="px-3 py-1.5">
                    <State tone={r.protection.proven ? "good" : "bad"}>
                      {r.protection.proven ? "proven" : "not proven"}
                    </State>
                    {r.openOrder && (
                      <Link to={`/work/${r.openOrder.id}`} className="block underline underline-offset-4">
                        <State tone="look">locked out, order {r.openOrder.id}</State>
                      </Link>
                    )}
                    {r.conflicts > 0 && (
                      <div>
                        <State tone="look">{r.conflicts} in conflict</State>
                      </div>
                    )}
                    {r.void > 0 && (
                      <div>
                        <State tone="look">{r.void} void</State>
                      </div>
                    )}
                  </td>
                  {slots.map((s) => {
                    const m = r.models[s.key];
                    return (
                      <td key={s.key} className="px-3 py-1.5">
                        <div className={m ? "" : "text-dim"}>{m?.value ?? "unknown"}</div>
                        <div className="flex gap-x-2 text-sm whitespace-nowrap text-dim">
                          <GradeMark grade={m?.grade ?? "unknown"} word={Boolean(m)} />
                          {m?.since && <span>{showMonth(m.since)}</span>}
                        </div>
                      </td>
                    );
                  })}
                  <td className="px-3 py-1.5">
                    {r.next && (
                      <button type="button" className="min-h-11 text-left" onClick={() => go("/due")}>
                        <span className="block">{r.next.title}</span>
                        <span className="text-sm text-dim">
                          {r.next.state === "not proven"
                            ? "before anything else"
                            : r.next.dueOn
                              ? fromToday(r.next.dueOn, today)
                              : r.next.state}
                        </span>
                      </button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {fleet.retired.length > 0 && (
        <details className="mt-6">
          <summary className="min-h-11 cursor-pointer font-semibold">Retired: {fleet.retired.length}</summary>
          <ul>
            {fleet.retired.map((r) => (
              <li key={r.id}>
                <Link
                  className="inline-flex min-h-11 items-center underline underline-offset-4"
                  to={`/machine/${r.id}`}
                >
                  {r.name}
                </Link>{" "}
                {showDay(r.at)}: {r.why}
              </li>
            ))}
          </ul>
        </details>
      )}
    </>
  );
}
