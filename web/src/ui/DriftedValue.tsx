import type { Schemas } from "../api/client";
import { GradeMark, State } from "./badges";
import { DiffText } from "./DiffText";
import { showDay } from "./dates";

type Value = Schemas["DriftedValue"];

/** A value that two places set to different numbers: what each says, which is likely right, which one
 * the machine prints with, and what puts each wrong place right. */
export function DriftedValue({ value: v }: { value: Value }) {
  return (
    <section className="mb-4 border-2 border-look bg-look-wash px-4 py-3" aria-label={v.title}>
      <h3 className="text-xl font-bold">{v.title}</h3>
      <p>{v.says}</p>
      <table className="my-2 w-full text-left">
        <thead className="sr-only">
          <tr>
            <th>Value</th>
            <th>Where</th>
          </tr>
        </thead>
        <tbody>
          {v.statements.map((s) => (
            <tr key={s.where + s.value} className="border-b border-rule align-baseline">
              <td className="py-1 pr-4 font-mono font-bold whitespace-nowrap">{s.value}</td>
              <td className="w-full py-1">
                <span className="flex flex-wrap items-baseline gap-x-3">
                  <span>
                    {s.where}
                    {s.line ? `, line ${s.line}` : ""}
                    {s.at && !s.at.startsWith("0001") && `, ${showDay(s.at)}`}
                    {s.by && `, ${s.by}`}
                  </span>
                  {!s.file && <GradeMark grade={s.grade} />}
                  {s.stale && <span>what it depends on was changed since</span>}
                  {s.value === v.stands && <State tone="good">likely right</State>}
                  {s.where === v.inForce && (
                    <State tone={s.value === v.stands ? "good" : "bad"}>prints with this</State>
                  )}
                </span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p>
        {v.stands ? (
          <>
            <b>{v.stands}</b> is likely right: {v.why}.
          </>
        ) : (
          <>
            <State tone="look">Measure to settle it</State>: {v.why}.
          </>
        )}{" "}
        {v.settle}
      </p>
      {v.patches.map((p) => (
        <div key={p.file + p.name} className="mt-2">
          <p className="font-semibold">
            {p.where} {p.name}: {p.was} → {p.becomes}
          </p>
          {p.fault && <p>{p.fault}</p>}
          {p.lines && p.lines.length > 0 && <DiffText text={`${p.lines.join("\n")}\n`} name={`${p.name}.lines`} />}
          {p.diff && <DiffText text={p.diff} name={`${p.name}.patch`} />}
          <p className="text-dim">{p.then}</p>
        </div>
      ))}
    </section>
  );
}
