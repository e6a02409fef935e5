import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { State } from "../../ui/badges";
import { showDay } from "../../ui/dates";

const tones = {
  free: "good",
  "attended only": "look",
  "locked out": "look",
  "known broken": "bad",
  "out of use": "bad",
} as const;

/** One machine of the safety file. */
export function SafetyEntry({ entry: e }: { entry: Schemas["MachineSafety"] }) {
  return (
    <article className="break-inside-avoid border-t-2 border-line pt-2">
      <h2 className="flex flex-wrap items-baseline gap-x-3 text-lg font-bold">
        <Link
          to={`/machine/${e.id}`}
          className="inline-flex min-h-10 items-center underline-offset-4 hover:underline compact:min-h-0"
        >
          {e.name}
        </Link>
        <span className="font-normal text-dim">{e.bay}</span>
        <span className="text-base">
          <State tone={tones[e.state]}>{e.state}</State>
        </span>
      </h2>
      {e.why && <p>{e.why}</p>}
      <ul>
        {e.proofs.map((p) => (
          <li key={p.name}>
            <b>{p.name}</b>:{" "}
            <State tone={p.proven ? "good" : "bad"}>{p.proven ? "protection proven" : "protection not proven"}</State>
            {p.on && (
              <span className="text-dim">
                {" "}
                {showDay(p.on)}, {p.by}, {p.method}
                {p.seconds ? `, alarm after ${p.seconds} s` : ""}
                {p.build && `, build ${p.build}`}
              </span>
            )}
            {!p.proven && <span className="block">{p.why}</span>}
          </li>
        ))}
        <li>
          Bed heated from the mains: <b>{e.mains}</b>
          {e.cutOff && (
            <>
              , with a thermal cut-off of its own: <b>{e.cutOff}</b>
            </>
          )}
        </li>
        {e.work.map((w) => (
          <li key={w.what + w.on}>
            Mains work, {showDay(w.on)}: {w.what}. <b>{w.who}</b>
            {w.earth && `, earth continuity ${w.earth}${/Ω/.test(w.earth) ? "" : " Ω"} with ${w.instrument}`}
          </li>
        ))}
        {e.locks.length > 0 && <li>Locks on: {e.locks.join(", ")}</li>}
        {e.faults > 0 && <li>Open faults: {e.faults}</li>}
      </ul>
      {e.risks.length > 0 && <p className="font-semibold text-bad">Open: {e.risks.join("; ")}.</p>}
    </article>
  );
}
