import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { Link } from "react-router";
import { api, type Schemas, unwrap } from "../api/client";
import { useMayWork } from "../app/session";
import { alongRows } from "../ui/alongRows";
import { State } from "../ui/badges";
import { DayInput } from "../ui/DayInput";
import { showDay } from "../ui/dates";
import { useDraft } from "../ui/draft";
import { Button, Cautions, Check, Fault, Field, Select, TextInput } from "../ui/form";
import { Page } from "../ui/Page";
import { Panel } from "../ui/Panel";
import { SubPlaces, workPages } from "../ui/SubPlaces";
import { Empty, Loaded } from "../ui/states";
import { toast } from "../ui/toast";
import { useWrite } from "../ui/write";
import { dateOf } from "./when";

type Row = Schemas["DueRow"];

const tones = { overdue: "look", soon: "cond", later: "dim" } as const;
type Dated = keyof typeof tones;

export default function MaintenancePage() {
  const [view, setView] = useDraft("due", { task: "", bay: "", span: "30" });
  const query = useQuery({
    queryKey: ["due", view],
    queryFn: () =>
      unwrap(
        api.GET("/api/due", {
          params: { query: { task: view.task, bay: view.bay, within: view.span ? Number(view.span) : -1 } },
        }),
      ),
    placeholderData: (before) => before,
  });
  return (
    <Page title="Maintenance">
      <SubPlaces label="Work" pages={workPages} />
      <Loaded query={query} what="Working out what is due">
        {(due) => <DueList due={due} view={view} setView={setView} />}
      </Loaded>
    </Page>
  );
}

type View = { task: string; bay: string; span: string };

function DueList({ due, view, setView }: { due: Schemas["DueList"]; view: View; setView: (view: View) => void }) {
  const [doing, setDoing] = useState<Row>();
  const { bays, rows } = due;
  const dated = rows.filter((r) => r.on);
  const of = (state: string) => rows.filter((r) => r.state === state);
  const unproven = of("not proven");
  return (
    <>
      {unproven.length > 0 && <Unproven rows={unproven} />}
      <div className="no-print mb-4 flex flex-wrap items-end gap-3">
        <Select
          aria-label="Kind of task"
          className="max-w-80"
          value={view.task}
          onChange={(task) => setView({ ...view, task })}
          options={due.tasks.map((t) => [t.key, t.title] as const)}
          empty="Every kind of task"
        />
        {bays.length > 0 && (
          <Select
            aria-label="Bay"
            className="max-w-44"
            value={view.bay}
            onChange={(bay) => setView({ ...view, bay })}
            options={bays}
            empty="Every bay"
          />
        )}
        <Select
          aria-label="How far ahead"
          className="max-w-52"
          value={view.span}
          onChange={(span) => setView({ ...view, span })}
          options={[
            ["0", "Due now"],
            ["14", "Next 14 days"],
            ["30", "Next 30 days"],
            ["90", "Next 90 days"],
          ]}
          empty="Everything"
        />
        <span className="text-dim">
          {dated.length} of {due.dated} with a date
        </span>
      </div>
      {dated.length === 0 ? (
        <Empty title="Nothing with a date comes up in this view.">
          <Button onClick={() => setView({ task: "", bay: "", span: "" })}>Show everything</Button>
        </Empty>
      ) : (
        <Dates rows={dated} onDone={setDoing} />
      )}
      <ReadFirst rows={of("read the meter")} />
      <StartUnknown rows={of("start unknown")} rounds={due.rounds} tasks={due.tasks} onDone={setDoing} />
      <StandStill rows={of("stands still")} />
      {doing && (
        <DonePanel row={doing} task={due.tasks.find((t) => t.key === doing.task)} onClose={() => setDoing(undefined)} />
      )}
    </>
  );
}

/** Unproven protection: one line with a count, and each machine's test behind it. */
function Unproven({ rows }: { rows: readonly Row[] }) {
  const mayWork = useMayWork();
  return (
    <details className="mb-5 border-l-4 border-bad bg-bad-wash px-4 py-2">
      <summary className="min-h-11 cursor-pointer py-1.5 text-lg">
        <b>
          Thermal-runaway protection is not proven on {rows.length} {rows.length === 1 ? "machine" : "machines"}
        </b>
        : test now; until then never left running unattended.
      </summary>
      <ul>
        {rows.map((r) => (
          <li key={r.machineId} className="flex flex-wrap items-center gap-x-4 border-t border-rule py-1">
            <MachineName row={r} />
            <span>{r.words}</span>
            {mayWork && (
              <Link
                className="ml-auto inline-flex min-h-11 items-center border-2 border-line bg-leaf px-4 font-semibold whitespace-nowrap hover:border-accent"
                to={`/machine/${r.machineId}?calibration=protection`}
              >
                Test it
              </Link>
            )}
          </li>
        ))}
      </ul>
    </details>
  );
}

function MachineName({ row }: { row: Row }) {
  return (
    <span className="compact:flex compact:items-baseline compact:gap-x-2">
      <Link
        className="text-lg font-bold compact:text-base underline-offset-4 hover:underline"
        to={`/machine/${row.machineId}`}
      >
        {row.machine}
      </Link>
      <span className="block text-sm font-normal whitespace-nowrap text-dim">
        {row.bay}
        {row.locked && " · locked out"}
      </span>
    </span>
  );
}

function Dates({ rows, onDone }: { rows: readonly Row[]; onDone: (row: Row) => void }) {
  const mayWork = useMayWork();
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: only passes arrow keys on to the buttons inside
    <div className="relative overflow-x-auto bg-leaf" onKeyDown={alongRows}>
      <table className="w-full border-collapse">
        <thead className="border-b-2 border-line bg-wall text-left">
          <tr>
            {["When", "Machine", "Task", "Used / limit", ""].map((h) => (
              <th key={h} scope="col" className="px-3 py-2">
                {h || <span className="sr-only">Done</span>}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <tr
              key={`${r.machineId}-${r.task}`}
              className="border-b border-rule align-top hover:bg-wash compact:align-middle"
            >
              <td className="px-3 py-2 compact:py-0.5">
                <div className="compact:flex compact:items-baseline compact:gap-x-3">
                  <span className="compact:w-36 compact:shrink-0">
                    <State tone={tones[r.state as Dated]}>{r.words}</State>
                  </span>
                  <span className="block max-w-64 text-sm text-dim compact:max-w-none">{dateOf(r)}</span>
                </div>
              </td>
              <th scope="row" className="px-3 py-2 text-left compact:py-0.5">
                <MachineName row={r} />
              </th>
              <td className="px-3 py-2 compact:py-0.5">
                {r.title}
                {r.why && <span className="block text-sm">{r.why}</span>}
              </td>
              <td className="px-3 py-2 text-dim compact:py-0.5">
                {r.used}
                <span className="block text-sm compact:ml-3 compact:inline">
                  {r.lastDone ? `last done ${showDay(r.lastDone)}` : "never recorded"}
                  {r.rests && `; ${r.rests}`}
                </span>
              </td>
              <td className="px-3 py-2 text-right compact:py-0.5">
                {mayWork &&
                  (r.task === "protection-test" ? (
                    <Link
                      data-row
                      className="inline-flex min-h-11 items-center compact:min-h-8 border-2 border-line bg-leaf px-4 font-semibold whitespace-nowrap hover:border-accent"
                      to={`/machine/${r.machineId}?calibration=protection`}
                    >
                      Test it
                    </Link>
                  ) : (
                    <Button data-row className="whitespace-nowrap compact:min-h-8" onClick={() => onDone(r)}>
                      Done …
                    </Button>
                  ))}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** Machines of which the meter has to be read before their tasks have dates. */
function ReadFirst({ rows }: { rows: readonly Row[] }) {
  const mayWork = useMayWork();
  const machines = [...new Map(rows.map((r) => [r.machineId, r])).values()];
  if (machines.length === 0) return null;
  return (
    <Group
      title={`Read the meter first: ${machines.length} ${machines.length === 1 ? "machine" : "machines"}`}
      lead="Their tasks by print hours have no date before that."
    >
      {machines.map((m) => (
        <li
          key={m.machineId}
          className="grid items-center gap-x-4 border-b border-rule px-3 py-1.5 sm:grid-cols-[9rem_1fr_auto]"
        >
          <MachineName row={m} />
          <span className="text-dim">
            {m.rests}.{" "}
            {rows
              .filter((r) => r.machineId === m.machineId)
              .map((r) => r.title)
              .join("; ")}
          </span>
          {mayWork && (
            <Link
              className="inline-flex min-h-11 items-center border-2 border-line bg-leaf px-4 font-semibold whitespace-nowrap hover:border-accent"
              to={`/machine/${m.machineId}?meter=1`}
            >
              Read the meter
            </Link>
          )}
        </li>
      ))}
    </Group>
  );
}

/** Tasks of which nobody knows when they were done: a line a kind, with a first round. */
function StartUnknown({
  rows,
  rounds,
  tasks,
  onDone,
}: {
  rows: readonly Row[];
  rounds: readonly Schemas["Round"][];
  tasks: readonly Schemas["Task"][];
  onDone: (row: Row) => void;
}) {
  const mayWork = useMayWork();
  if (rows.length === 0) return null;
  return (
    <Group
      title="Start unknown: never recorded"
      lead="Nobody knows when this was done last. A first round, what can hurt people first, work of one kind in one go:"
    >
      {rounds.map((round) => {
        const waiting = rows.filter((r) => r.task === round.task);
        if (waiting.length === 0) return null;
        return (
          <li key={round.task} className="border-b border-rule px-3">
            <details>
              <summary className="min-h-11 cursor-pointer py-2">
                <b>{tasks.find((t) => t.key === round.task)?.title}</b>: {waiting.length}{" "}
                {waiting.length === 1 ? "machine" : "machines"}. First round from {showDay(round.from)}
                {round.weeks > 1 && `, over ${round.weeks} weeks`}
              </summary>
              <ul>
                {waiting.map((r) => (
                  <li key={r.machineId} className="flex flex-wrap items-center gap-x-4 border-t border-rule py-1">
                    <MachineName row={r} />
                    <span className="text-dim">{r.used}</span>
                    {mayWork && (
                      <Button className="ml-auto whitespace-nowrap" onClick={() => onDone(r)}>
                        Done …
                      </Button>
                    )}
                  </li>
                ))}
              </ul>
            </details>
          </li>
        );
      })}
    </Group>
  );
}

function StandStill({ rows }: { rows: readonly Row[] }) {
  const machines = [...new Map(rows.map((r) => [r.machineId, r])).values()];
  if (machines.length === 0) return null;
  return (
    <Group title="Stand still" lead="Not used since the meter was read before; no task by print hours is in sight.">
      {machines.map((m) => (
        <li key={m.machineId} className="flex flex-wrap items-center gap-x-4 border-b border-rule px-3 py-1.5">
          <MachineName row={m} />
          <span className="text-dim">{m.rests}</span>
        </li>
      ))}
    </Group>
  );
}

function Group({ title, lead, children }: { title: string; lead: string; children: ReactNode }) {
  return (
    <section aria-label={title} className="mt-7">
      <h2 className="text-2xl font-bold">{title}</h2>
      <p className="mb-2 text-dim">{lead}</p>
      <ul className="bg-leaf">{children}</ul>
    </section>
  );
}

function DonePanel({ row, task, onClose }: { row: Row; task?: Schemas["Task"]; onClose: () => void }) {
  const [note, setNote] = useState("");
  const [day, setDay] = useState("");
  const [renewed, setRenewed] = useState(task?.always ?? false);
  const { write, busy, fault } = useWrite();
  const undo = useWrite();
  return (
    <Panel open onOpenChange={onClose} title={`${row.title}: ${row.machine}`}>
      <p className="mb-3 text-lg">{task?.how}</p>
      <Cautions list={task?.cautions} />
      <form
        className="mt-4 space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          write(
            () =>
              unwrap(
                api.POST("/api/machines/{id}/done", {
                  params: { path: { id: row.machineId } },
                  body: { task: row.task, note, day, renewed: task?.renews ? renewed : undefined },
                }),
              ),
            () => {
              toast(`${row.title} on ${row.machine}: done, the counter starts again`, () =>
                undo.write(() =>
                  unwrap(
                    api.POST("/api/machines/{id}/undo-done", {
                      params: { path: { id: row.machineId } },
                      body: { task: row.task },
                    }),
                  ),
                ),
              );
              onClose();
            },
          );
        }}
      >
        {task?.renews && (
          <Check
            label="A new part went in, or it was set anew: what depends on it is measured again"
            checked={renewed}
            onChange={setRenewed}
          />
        )}
        <Field label="Note" htmlFor="done-note">
          <TextInput id="done-note" value={note} onChange={setNote} />
        </Field>
        <Field label="Day" htmlFor="done-day" hint="Today when left empty">
          <DayInput id="done-day" value={day} onChange={setDay} />
        </Field>
        <Fault text={fault} />
        <Button type="submit" main disabled={busy}>
          Record as done
        </Button>
      </form>
    </Panel>
  );
}
