import type { Schemas } from "../../api/client";

type Sheet = Schemas["Sheet"];

/** What its record lacks before anybody can rely on it. */
export function SheetMissing({ sheet }: { sheet: Sheet }) {
  if (sheet.missing.length === 0) return null;
  return (
    <section aria-labelledby="missing">
      <h2 id="missing" className="mb-1 text-2xl font-bold compact:text-lg">
        Not known yet
      </h2>
      <ul className="border-l-4 border-look bg-look-wash px-4 py-2 compact:py-1">
        {sheet.missing.map((m) => (
          <li key={m} className="py-0.5">
            {m}
          </li>
        ))}
      </ul>
    </section>
  );
}
