import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { showDay } from "../../ui/dates";

type Sheet = Schemas["Sheet"];

/** What was in the machine earlier. */
export function SheetTaken({ sheet }: { sheet: Sheet }) {
  if (sheet.history.length === 0) return null;
  return (
    <section aria-labelledby="taken">
      <h2 id="taken" className="mb-1 text-2xl font-bold compact:text-lg">
        Taken out
      </h2>
      <ul className="bg-leaf">
        {sheet.history.map((h) => (
          <li key={`${h.slot}${h.to}${h.from}`} className="border-b border-rule px-3 py-2 compact:py-1">
            {h.slot}:{" "}
            <Link
              to={h.part ? `/part/${h.part}` : `/machine/${sheet.id}/builds`}
              className="font-bold underline underline-offset-4"
            >
              {h.model || (h.part ? "unnamed part" : "unnamed build")}
            </Link>{" "}
            <span className="text-dim">
              {showDay(h.from)} to {showDay(h.to)}
              {h.workOrder ? `, order ${h.workOrder}` : ""}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
