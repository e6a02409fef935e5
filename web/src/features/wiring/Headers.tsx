import type { Schemas } from "../../api/client";

const Y = [30, 62, 94, 126];

/** Two headers with the leads between them: which lead goes on which pin. */
export function Headers({ judged: j }: { judged: Schemas["JudgedMotor"] }) {
  if (j.fault) return <p className="border-l-4 border-bad bg-bad-wash px-3 py-2">{j.fault}</p>;
  const moved = j.repin.leads.map((lead, way) => lead !== way + 1);
  const words = j.repin.leads.map((lead, way) => `pin ${lead} of the motor to pin ${way + 1} of the board`).join(", ");
  return (
    <figure>
      <svg viewBox="0 0 420 156" className="w-full max-w-lg" role="img" aria-label={`${j.name}: ${words}`}>
        {(["motor", "header"] as const).map((side) => {
          const x = side === "motor" ? 60 : 330;
          return (
            <g key={side}>
              <text x={x + 15} y="13" textAnchor="middle" className="fill-dim text-[12px]">
                {side === "motor" ? "motor's plug" : "board's header"}
              </text>
              <rect x={x} y="18" width="30" height="120" fill="none" stroke="currentColor" strokeWidth="2.5" />
              {Y.map((y, i) => (
                <g key={y}>
                  <text x={x + 15} y={y + 5} textAnchor="middle" className="fill-ink font-mono text-[14px]">
                    {i + 1}
                  </text>
                  <text
                    x={side === "motor" ? x - 10 : x + 40}
                    y={y + 5}
                    textAnchor={side === "motor" ? "end" : "start"}
                    className="fill-ink font-mono text-[15px] font-bold"
                  >
                    {j[side][i]}
                  </text>
                </g>
              ))}
            </g>
          );
        })}
        {j.repin.leads.map((lead, way) => (
          <path
            key={lead}
            d={`M90 ${Y[lead - 1]} C 200 ${Y[lead - 1]}, 220 ${Y[way]}, 330 ${Y[way]}`}
            fill="none"
            stroke="currentColor"
            strokeWidth={moved[way] ? 4 : 2}
            strokeDasharray={moved[way] ? undefined : "7 4"}
            className={moved[way] ? "text-accent" : "text-dim"}
          />
        ))}
      </svg>
      <figcaption>
        <b>{j.repin.words}</b>
        <span className="block text-sm text-dim">Thick: moved. Broken: straight through as before.</span>
      </figcaption>
    </figure>
  );
}
