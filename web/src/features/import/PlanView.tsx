import { useState } from "react";
import type { Schemas } from "../../api/client";
import { State } from "../../ui/badges";
import { Button, TextInput } from "../../ui/form";

type Fault = Schemas["Fault"];
type Row = Schemas["Row"];

const tones = { create: "cond", change: "look", same: "dim", faulty: "bad", "left out": "dim" } as const;

/** What importing the file would do, faults first. */
export function PlanView({
  plan,
  busy,
  leaveOut,
  onCorrect,
  onLeaveOut,
  onAccept,
}: {
  plan: Schemas["Plan"];
  busy: boolean;
  leaveOut: number[];
  onAccept: (lines: number[]) => void;
  onCorrect: (c: Schemas["Correction"]) => void;
  onLeaveOut: (lines: number[]) => void;
}) {
  const faulty = plan.rows.filter((r) => r.action === "faulty");
  const rest = plan.rows.filter((r) => r.action !== "faulty");
  const more = plan.created + plan.changed + plan.same + plan.leftOut - rest.length;
  return (
    <section aria-labelledby="preview">
      <h2 id="preview" className="text-2xl font-bold">
        What the import would do
      </h2>
      <p className="mb-3 text-lg">
        {plan.created} new, {plan.changed} changed, {plan.same} the same, {plan.faulty} faulty, {plan.leftOut} left out
      </p>
      {faulty.length > 0 && (
        <div className="mb-4 border-2 border-bad">
          <div className="flex flex-wrap items-center justify-between gap-3 bg-bad-wash px-4 py-2">
            <b>Correct the cell here, or leave the row out</b>
            <span className="flex flex-wrap gap-2">
              {plan.askedLines.length > 1 && (
                <Button disabled={busy} onClick={() => onAccept(plan.askedLines)}>
                  What is asked is right in all {plan.askedLines.length}
                </Button>
              )}
              <Button disabled={busy} onClick={() => onLeaveOut([...leaveOut, ...plan.faultyLines])}>
                Leave all {plan.faulty} out
              </Button>
            </span>
          </div>
          <ul className="bg-leaf">
            {faulty.map((r) => (
              <FaultyRow
                key={r.line}
                row={r}
                busy={busy}
                onCorrect={onCorrect}
                onLeaveOut={() => onLeaveOut([...leaveOut, r.line])}
                onAccept={() => onAccept([r.line])}
              />
            ))}
          </ul>
          {plan.faulty > faulty.length && (
            <p className="px-4 py-2">and {plan.faulty - faulty.length} more faulty rows</p>
          )}
        </div>
      )}
      <ul className="bg-leaf">
        {rest.map((r) => (
          <li key={r.line} className="border-b border-rule">
            <details>
              <summary className="flex min-h-11 cursor-pointer flex-wrap items-center gap-x-4 px-3 py-1 hover:bg-wash">
                <span className="w-16 text-dim">line {r.line}</span>
                <b className="w-48">{r.name}</b>
                <State tone={tones[r.action as keyof typeof tones]}>{r.action}</State>
                <span className="text-dim">{r.changes.length > 0 && `${r.changes.length} values`}</span>
                {r.changes.some((c) => c.remark) && <State tone="look">has remarks: open it</State>}
                {r.action === "left out" && (
                  <button
                    type="button"
                    className="min-h-10 underline underline-offset-4"
                    onClick={(e) => {
                      e.preventDefault();
                      onLeaveOut(leaveOut.filter((l) => l !== r.line));
                    }}
                  >
                    take it back
                  </button>
                )}
              </summary>
              <ul className="px-8 pb-2">
                {r.changes.map((c) => (
                  <li key={c.target}>
                    {c.label}: {c.before && <span className="text-dim">{c.before} → </span>}
                    <b>{c.after}</b> {c.remark && <span className="text-look">▲ {c.remark}</span>}
                  </li>
                ))}
              </ul>
            </details>
          </li>
        ))}
      </ul>
      {more > 0 && <p className="mt-2 text-dim">and {more} more rows like these</p>}
    </section>
  );
}

function FaultyRow({
  row,
  busy,
  onCorrect,
  onLeaveOut,
  onAccept,
}: {
  row: Row;
  busy: boolean;
  onCorrect: (c: Schemas["Correction"]) => void;
  onLeaveOut: () => void;
  onAccept: () => void;
}) {
  return (
    <li className="border-b border-rule px-4 py-2">
      <div className="flex flex-wrap items-center justify-between gap-3">
        <span>
          line {row.line}, <b>{row.name || "no name"}</b>
        </span>
        <span className="flex gap-2">
          {row.faults.every((f) => f.ask) && (
            <Button disabled={busy} onClick={onAccept}>
              It is right
            </Button>
          )}
          <Button disabled={busy} onClick={onLeaveOut}>
            Leave it out
          </Button>
        </span>
      </div>
      {row.faults.map((f) => (
        <FaultLine key={`${f.column}${f.problem}`} fault={f} busy={busy} onCorrect={onCorrect} />
      ))}
    </li>
  );
}

function FaultLine({
  fault: f,
  busy,
  onCorrect,
}: {
  fault: Fault;
  busy: boolean;
  onCorrect: (c: Schemas["Correction"]) => void;
}) {
  const [value, setValue] = useState(f.value);
  return (
    <form
      className="mt-1"
      onSubmit={(e) => {
        e.preventDefault();
        onCorrect({ line: f.line, column: f.column, value });
      }}
    >
      <p>
        <State tone={f.ask ? "look" : "bad"}>{f.heading || "row"}</State> {f.problem}
      </p>
      {f.column >= 0 && (
        <div className="mt-1 flex flex-wrap gap-2">
          <TextInput
            aria-label={`${f.heading} in line ${f.line}`}
            className="max-w-64 font-mono"
            value={value}
            onChange={setValue}
          />
          <Button type="submit" disabled={busy || value === f.value}>
            Correct
          </Button>
        </div>
      )}
    </form>
  );
}
