import type { Schemas } from "../../api/client";

/** What the other machines of the pass have there; what differs from what is being typed stands out. */
export function Siblings({ others, draft }: { others: readonly Schemas["SiblingValue"][]; draft: string }) {
  if (others.length === 0) return null;
  const same = (value: string) => value.trim().toLowerCase() === draft.trim().toLowerCase();
  return (
    <ul className="mt-1" aria-label="The other machines">
      {others.map((o) => (
        <li key={o.value} className={draft && !same(o.value) ? "font-semibold text-look" : "text-dim"}>
          {draft && !same(o.value) && <span aria-hidden="true">▲ </span>}
          {o.value} on {o.machines.join(", ")}
        </li>
      ))}
    </ul>
  );
}
