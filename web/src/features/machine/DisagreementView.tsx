import type { Schemas } from "../../api/client";
import { GradeMark, State } from "../../ui/badges";
import { showDay } from "../../ui/dates";

/** Two places say different things of one value: what each says, which stands, and what
 *  would settle it. */
export function DisagreementView({ d }: { d: Schemas["Disagreement"] }) {
  return (
    <section className="mb-4 border-2 border-look bg-look-wash px-4 py-3">
      <h3 className="text-lg font-bold">
        <State tone="look">Disagrees</State> {d.says}
      </h3>
      <ul className="my-2">
        {d.statements.map((s) => (
          <li key={s.where} className="flex flex-wrap items-baseline gap-x-3 border-b border-rule py-1">
            <b className="font-mono">{s.value}</b>
            <GradeMark grade={s.grade} />
            <span>
              {s.where}
              {s.at && !s.at.startsWith("0001") && `, ${showDay(s.at)}`}
              {s.by && `, ${s.by}`}
              {s.stale && "; what it depends on was changed since"}
            </span>
          </li>
        ))}
      </ul>
      <p>
        {d.stands ? (
          <>
            <b>{d.stands}</b> stands: {d.why}.
          </>
        ) : (
          <>No value stands: {d.why}.</>
        )}
      </p>
      <p>To settle it: {d.settle}</p>
    </section>
  );
}
