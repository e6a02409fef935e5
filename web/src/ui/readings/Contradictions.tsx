import type { Schemas } from "../../api/client";

/** What cannot be true together, and which single fact would explain it. */
export function Contradictions({ list, title }: { list: readonly Schemas["Contradiction"][]; title: string }) {
  if (list.length === 0) return null;
  return (
    <section
      aria-label={title}
      className={`border-l-4 px-4 py-2 ${list.some((c) => c.safety) ? "border-bad bg-bad-wash" : "border-look bg-look-wash"}`}
    >
      <p className="font-bold">
        <span aria-hidden="true">▲ </span>
        {title}
      </p>
      <ul className="mt-1 space-y-2">
        {list.map((c) => (
          <li key={c.sentence}>
            {c.sentence}
            {c.explains.length > 0 && (
              <ul className="mt-1 list-disc pl-6">
                {c.explains.map((e) => (
                  <li key={e}>{c.need ? e : `It would be explained by: ${e}`}</li>
                ))}
              </ul>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
