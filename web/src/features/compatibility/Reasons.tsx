import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { GradeMark, State } from "../../ui/badges";
import { showDay } from "../../ui/dates";

type Outcome = Schemas["Outcome"];

const tones = {
  met: "good",
  "not met": "bad",
  unknown: "look",
  "too weak": "look",
  "not exact": "look",
  conflict: "look",
  "with an additional change": "cond",
  open: "look",
} as const;
const groupWords = { all: "all of these", any: "one of these", none: "none of these" } as const;

/** The tree of needs; each opens to the readings behind it. */
export function Reasons({ outcome, machineId }: { outcome: Outcome; machineId: number }) {
  return (
    <ul className="bg-leaf">
      {(outcome.parts ?? [outcome]).map((p, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: two needs can have the same words
        <Need key={i} outcome={p} machineId={machineId} />
      ))}
    </ul>
  );
}

function Need({ outcome: o, machineId }: { outcome: Outcome; machineId: number }) {
  return (
    <li className="border-b border-rule">
      <details className="group" open={o.state !== "met"}>
        <summary className="flex min-h-11 cursor-pointer items-baseline justify-between gap-4 px-3 py-2 hover:bg-wash">
          <span>
            <span aria-hidden="true" className="mr-2 inline-block text-dim group-open:rotate-90">
              ▸
            </span>
            {o.label}
            {o.group && o.parts && o.parts.length > 1 && (
              <span className="text-sm text-dim"> ({groupWords[o.group]})</span>
            )}
            {o.who && (
              <span className="block text-sm text-dim">
                as long as {o.who} is fitted{o.at && `: ${o.at}`}
              </span>
            )}
          </span>
          <State tone={tones[o.state]}>
            {o.state}
            {o.leans && <span className="block text-sm font-normal">claims say {o.leans}</span>}
          </State>
        </summary>
        <div className="border-l-4 border-line pb-2 pl-4 ml-4">
          {o.why && <p>{o.why}</p>}
          {o.arithmetic && <p className="font-mono text-lg">{o.arithmetic}</p>}
          {o.evidence?.map((e) => (
            <p key={e.key} className="flex flex-wrap items-baseline gap-x-3">
              <Link
                className="inline-flex min-h-10 items-center font-bold underline underline-offset-4"
                to={`/machine/${machineId}?fact=${e.key}`}
              >
                {e.label}: {e.value}
              </Link>
              <GradeMark grade={e.grade} />
              {e.takenAt && (
                <span className="text-dim">
                  {showDay(e.takenAt)}, {e.by}
                  {e.how && `, ${e.how}`}
                </span>
              )}
              {e.conflict?.map((c) => (
                <span key={c} className="text-look">
                  {c}
                </span>
              ))}
            </p>
          ))}
          {o.evidence && o.state === "too weak" && <p>Decides from "{o.least}" on: somebody has to look.</p>}
          {o.problem && <p className="font-semibold text-bad">✖ {o.problem}.</p>}
          {o.hazard && <p className="font-semibold text-look">▲ {o.hazard}</p>}
          {o.howTo && o.state !== "met" && <p>How to find out: {o.howTo}</p>}
          {o.otherwise && o.state !== "met" && <p className="text-dim">{o.otherwise}</p>}
          {o.parts && (
            <ul>
              {o.parts.map((p, i) => (
                // biome-ignore lint/suspicious/noArrayIndexKey: two needs can have the same words
                <Need key={i} outcome={p} machineId={machineId} />
              ))}
            </ul>
          )}
        </div>
      </details>
    </li>
  );
}
