import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { showDay } from "../../ui/dates";
import { More, usePages } from "../../ui/pages";

/** Imports that come at once. */
const SHOWN = 20;

/** Who imported which file, when. */
export function Imports() {
  const { query, rows, first } = usePages(
    keys.imports(),
    (offset) => unwrap(api.GET("/api/imports", { params: { query: { offset, limit: SHOWN } } })),
    (p) => p.rows,
    (p) => p.found,
  );
  if (rows.length === 0) return null;
  return (
    <section aria-labelledby="imports" className="mt-8">
      <h2 id="imports" className="mb-1 text-2xl font-bold">
        Imported before
      </h2>
      <ul className="bg-leaf">
        {rows.map((i) => (
          <li key={`${i.at}${i.file}`} className="border-b border-rule px-3 py-2">
            <b>{i.file || `a ${i.what}`}</b>, {showDay(i.at)}, {i.by}:{" "}
            {Object.entries(i.result)
              .filter(([, n]) => n > 0)
              .map(([of, n]) => `${n} ${of}`)
              .join(", ") || "nothing new"}
          </li>
        ))}
      </ul>
      <More query={query} shown={rows.length} found={first?.found ?? 0} what="imports" />
    </section>
  );
}
