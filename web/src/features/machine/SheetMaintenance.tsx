import type { Schemas } from "../../api/client";
import { showDay } from "../../ui/dates";

type Sheet = Schemas["Sheet"];

export function SheetMaintenance({ sheet }: { sheet: Sheet }) {
  return (
    <section aria-labelledby="next">
      <h2 id="next" className="mb-1 text-2xl font-bold compact:text-lg">
        Maintenance
      </h2>
      <p className="mb-2 text-dim">{sheet.meter ? meterWords(sheet.meter) : "The print-hour meter was never read."}</p>
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
  const now = `${wide ? "about " : ""}${Math.round(m.life)} print hours${wide ? ` (${Math.round(m.low)} to ${Math.round(m.high)})` : ""}`;
  const rate = m.perDay !== undefined ? `, ${m.perDay.toFixed(1)} h a day` : "";
  return `${now}${rate}; meter read ${showDay(m.at)} at ${m.hours} h`;
}
