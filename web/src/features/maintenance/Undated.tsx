import type { ReactNode } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { showDay } from "../../ui/dates";
import { Button } from "../../ui/form";
import { useMayWork } from "../../ui/session";
import { FirstOf } from "./FirstOf";
import { MachineName, type Row } from "./MachineName";

/** Machines of which the meter has to be read before their tasks have dates. */
export function ReadFirst({ rows, machines: all }: { rows: readonly Row[]; machines: number }) {
  const mayWork = useMayWork();
  const machines = [...new Map(rows.map((r) => [r.machineId, r])).values()];
  if (machines.length === 0) return null;
  return (
    <Group
      title={`Read the meter first: ${all} ${all === 1 ? "machine" : "machines"}`}
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
      <FirstOf shown={machines.length} all={all} />
    </Group>
  );
}

/** Tasks of which nobody knows when they were done: a line a kind, with a first round. */
export function StartUnknown({
  rows,
  due,
  onDone,
}: {
  rows: readonly Row[];
  due: Schemas["DueList"];
  onDone: (row: Row) => void;
}) {
  const mayWork = useMayWork();
  if (rows.length === 0) return null;
  return (
    <Group
      title="Start unknown: never recorded"
      lead="Nobody knows when this was done last. A first round, what can hurt people first, work of one kind in one go:"
    >
      {due.rounds.map((round) => {
        const waiting = rows.filter((r) => r.task === round.task);
        if (waiting.length === 0) return null;
        const all = due.undated.find((u) => u.task === round.task)?.machines ?? waiting.length;
        return (
          <li key={round.task} className="border-b border-rule px-3">
            <details>
              <summary className="min-h-11 cursor-pointer py-2">
                <b>{due.tasks.find((t) => t.key === round.task)?.title}</b>: {all} {all === 1 ? "machine" : "machines"}.
                First round from {showDay(round.from)}
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
                <FirstOf shown={waiting.length} all={all} />
              </ul>
            </details>
          </li>
        );
      })}
    </Group>
  );
}

/** Machines that were not used since the meter was read before. */
export function StandStill({ rows, machines: all }: { rows: readonly Row[]; machines: number }) {
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
      <FirstOf shown={machines.length} all={all} />
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
