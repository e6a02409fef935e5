import { Link } from "react-router";
import type { Schemas } from "../../api/client";

/** What cannot be planned: what stands in its way, and what would let it be. What stands in the way of several is said once. */
export function Blocked({ blocked }: { blocked: readonly Schemas["BlockedWork"][] }) {
  const groups = new Map<string, Schemas["BlockedWork"][]>();
  for (const b of blocked) {
    const key = [b.title, ...b.why].join("\n");
    groups.set(key, [...(groups.get(key) ?? []), b]);
  }
  return (
    <section id="blocked" className="mt-6 max-w-6xl">
      <h2 className="mb-1 border-b-2 border-line text-xl font-bold">
        Cannot be planned <span className="font-normal text-dim">{blocked.length}</span>
      </h2>
      <ul className="bg-leaf">
        {[...groups].map(([key, of]) => (
          <li key={key} className="border-b border-rule px-3 py-2">
            <p className="font-bold">
              {of.map((b, i) => (
                <span key={b.key}>
                  {i > 0 && ", "}
                  <Link className="underline underline-offset-4" to={`/machine/${b.machineId}`}>
                    {b.machine}
                  </Link>
                </span>
              ))}
              : {of[0]?.title}
            </p>
            <ul>
              {of[0]?.why.map((why, i) => (
                <li key={why}>
                  ▲ {why}. <span className="text-dim">It would go with: {of[0]?.unblock[i]}.</span>
                </li>
              ))}
            </ul>
          </li>
        ))}
      </ul>
    </section>
  );
}
