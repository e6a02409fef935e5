import type { Schemas } from "../../api/client";
import { showDay } from "../../ui/dates";
import { UseWeeks } from "./UseWeeks";

type Sheet = Schemas["Sheet"];

export function SheetMaintenance({ sheet }: { sheet: Sheet }) {
  return (
    <section aria-labelledby="next">
      <h2 id="next" className="mb-1 text-2xl font-bold compact:text-lg">
        Maintenance
      </h2>
      {sheet.meters.map((m) => (
        <div key={m.counter}>
          <p className="mb-2 text-dim">{meterWords(m)}</p>
          <UseWeeks meter={m} />
        </div>
      ))}
      {sheet.meters.length === 0 && <p className="mb-2 text-dim">No meter was ever read.</p>}
      <ul className="bg-leaf">
        {sheet.due.slice(0, 5).map((d) => (
          <li
            key={d.task}
            className="flex flex-wrap justify-between gap-x-4 border-b border-rule px-3 py-2 compact:py-1"
          >
            <span>{d.title}</span>
            <span className="text-dim">
              {d.words}
              {d.on && `, ${showDay(d.on)}`}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function meterWords(m: Schemas["MeterSheet"]): string {
  const wide = m.high - m.low >= 1;
  const unit = m.counter === "hours" ? "print hours" : m.counter === "filament" ? "m of filament" : "prints";
  const now = `${wide ? "about " : ""}${Math.round(m.life)} ${unit}${wide ? ` (${Math.round(m.low)} to ${Math.round(m.high)})` : ""}`;
  const rate = m.perDay !== undefined ? `, ${m.perDay.toFixed(1)} ${m.unit} a day` : "";
  return `${now}${rate}; meter read ${showDay(m.at)} at ${m.amount} ${m.unit}`;
}
