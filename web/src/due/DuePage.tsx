import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, type Schemas, take } from "../api/client";
import { alongRows } from "../app/keys";
import { useMayWork, useSession } from "../app/session";
import { DayInput } from "../parts/DayInput";
import { fromToday, showDay } from "../parts/dates";
import { useDraft } from "../parts/draft";
import { Button, Cautions, Check, Fault, Field, Select, TextInput } from "../parts/form";
import { State } from "../parts/marks";
import { Page } from "../parts/Page";
import { Panel } from "../parts/Panel";
import { Empty, Loaded } from "../parts/states";
import { say } from "../parts/toast";
import { useWrite } from "../parts/write";

type Row = Schemas["DueRow"];

const tones = { "not proven": "bad", overdue: "look", soon: "cond", later: "dim", "meter unknown": "dim" } as const;
type Known = keyof typeof tones;

export default function DuePage() {
  const query = useQuery({ queryKey: ["due"], queryFn: () => take(api.GET("/api/due")) });
  return (
    <Page
      title="What is next"
      lead="Maintenance over the fleet. Machines whose thermal-runaway protection is not proven stand on top, always."
    >
      <Loaded query={query} what="Working out what is due">
        {(due) => <DueList due={due} />}
      </Loaded>
    </Page>
  );
}

function DueList({ due }: { due: Schemas["DueAnswer"] }) {
  const { today } = useSession();
  const mayWork = useMayWork();
  const [view, setView] = useDraft("due", { task: "", bay: "", span: "30" });
  const [doing, setDoing] = useState<Row>();
  const bays = [...new Set(due.rows.map((r) => r.bay).filter(Boolean))].sort();
  const limit = view.span ? new Date(Date.parse(today) + Number(view.span) * 86_400_000).toISOString() : "";
  const rows = due.rows.filter(
    (r) =>
      (!view.task || r.task === view.task) &&
      (!view.bay || r.bay === view.bay) &&
      (!limit || r.state === "not proven" || (r.dueOn !== undefined && r.dueOn <= limit)),
  );
  return (
    <>
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
          {rows.length} of {due.rows.length}
        </span>
      </div>
      {rows.length === 0 ? (
        <Empty title="Nothing comes up in this view.">
          <Button onClick={() => setView({ task: "", bay: "", span: "" })}>Show everything</Button>
        </Empty>
      ) : (
        // biome-ignore lint/a11y/noStaticElementInteractions: only passes arrow keys on to the buttons inside
        <div className="overflow-x-auto bg-leaf" onKeyDown={alongRows}>
          <table className="w-full border-collapse">
            <thead className="border-b-2 border-line bg-wall text-left">
              <tr>
                {["When", "Machine", "Task", "The sum", ""].map((h) => (
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
                  className={`border-b border-rule align-top ${r.state === "not proven" ? "bg-bad-wash" : "hover:bg-wash"}`}
                >
                  <td className="px-3 py-2 whitespace-nowrap">
                    <State tone={tones[r.state as Known] ?? "dim"}>{r.state}</State>
                    {r.dueOn && r.state !== "not proven" && (
                      <span className="block text-sm text-dim">
                        {showDay(r.dueOn)}, {fromToday(r.dueOn, today)}
                      </span>
                    )}
                  </td>
                  <th scope="row" className="px-3 py-2 text-left">
                    <Link
                      className="text-lg font-bold underline-offset-4 hover:underline"
                      to={`/machine/${r.machineId}`}
                    >
                      {r.machine}
                    </Link>
                    <span className="block text-sm font-normal text-dim">
                      {r.bay}
                      {r.locked && " · locked out"}
                    </span>
                  </th>
                  <td className="px-3 py-2">
                    {r.title}
                    {r.why && <span className="block text-sm">{r.why}</span>}
                  </td>
                  <td className="px-3 py-2 text-dim">
                    {r.account}
                    <span className="block text-sm">
                      {r.lastDone
                        ? `last done ${showDay(r.lastDone)}`
                        : "never recorded; counted from entry in the register"}
                    </span>
                  </td>
                  <td className="px-3 py-2 text-right">
                    {mayWork &&
                      (r.task === "protection-test" ? (
                        <Link
                          data-row
                          className="inline-flex min-h-11 items-center border-2 border-line bg-leaf px-4 font-semibold whitespace-nowrap hover:border-brass"
                          to={`/machine/${r.machineId}?calibration=protection`}
                        >
                          Test it
                        </Link>
                      ) : (
                        <Button data-row onClick={() => setDoing(r)}>
                          Done …
                        </Button>
                      ))}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {doing && (
        <DonePanel row={doing} task={due.tasks.find((t) => t.key === doing.task)} onClose={() => setDoing(undefined)} />
      )}
    </>
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
              take(
                api.POST("/api/machines/{id}/done", {
                  params: { path: { id: row.machineId } },
                  body: { task: row.task, note, day, renewed: task?.renews ? renewed : undefined },
                }),
              ),
            () => {
              say(`${row.title} on ${row.machine}: done, the counter starts again`, () =>
                undo.write(() =>
                  take(
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
          It is done
        </Button>
      </form>
    </Panel>
  );
}
