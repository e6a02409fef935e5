import type { Schemas } from "../../api/client";
import { State } from "../../ui/badges";

const tones = { "known broken": "bad", "leans broken": "look", "nothing known broken": "good" } as const;

/** How a machine stands in what its parts need as long as they are fitted. */
export function PartNeeds({ needs: n }: { needs: Schemas["Standing"] }) {
  return (
    <section aria-labelledby="part-needs" className="mb-5 border-l-4 border-line bg-leaf px-4 py-2">
      <h2 id="part-needs" className="text-lg font-bold">
        What its parts need: <State tone={tones[n.state]}>{n.state}</State>
      </h2>
      {n.leaning.length > 0 && (
        <>
          <p>Not met, if the claims are right. Look, before anybody relies on it:</p>
          <ul className="list-disc pl-6">
            {n.leaning.map((o) => (
              <li key={`${o.at}${o.who}${o.label}`}>
                {o.at && `${o.at}: `}
                {o.label}
                {o.who && <span className="text-dim">, which {o.who} needs</span>}
                {o.hazard && <span className="block text-look">▲ {o.hazard}</span>}
              </li>
            ))}
          </ul>
        </>
      )}
      <p className="text-dim">
        {n.untold === 0
          ? "Every need can be told."
          : `${n.untold} ${n.untold === 1 ? "need" : "needs"} cannot be told either way.`}
        {n.unknown.length > 0 && ` Of an unknown model, nothing is asked yet: ${n.unknown.join(", ")}.`}
      </p>
    </section>
  );
}
