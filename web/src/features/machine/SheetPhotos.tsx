import type { Schemas } from "../../api/client";

/** Photographs of the machine and its markings, newest first. */
export function SheetPhotos({ sheet }: { sheet: Schemas["Sheet"] }) {
  const photos = sheet.slots
    .flatMap((s) =>
      s.traits.flatMap((t) =>
        t.readings.flatMap((r) => r.photos.map((id) => ({ id, at: r.at, what: `${s.label}: ${t.short}` }))),
      ),
    )
    .sort((a, b) => b.at.localeCompare(a.at));
  const once = photos.filter((p, i) => photos.findIndex((q) => q.id === p.id) === i);
  if (once.length === 0) return null;
  return (
    <section aria-labelledby="photos">
      <h2 id="photos" className="mb-1 text-2xl font-bold compact:text-lg">
        Photos
      </h2>
      <ul className="flex gap-2 overflow-x-auto">
        {once.slice(0, 8).map((p) => (
          <li key={p.id} className="shrink-0">
            <a href={`/api/photos/${p.id}`} className="block w-32">
              <img
                src={`/api/photos/${p.id}?small=true`}
                alt=""
                loading="lazy"
                className="h-24 w-32 border border-line object-cover"
              />
              <span className="block truncate text-sm" title={p.what}>
                {p.what}
              </span>
            </a>
          </li>
        ))}
      </ul>
    </section>
  );
}
