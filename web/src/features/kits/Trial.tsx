import type { UseQueryResult } from "@tanstack/react-query";
import { messageOf, type Schemas } from "../../api/client";
import { LeanCounts, VerdictMark } from "../../ui/badges";
import { Fault } from "../../ui/form";

/** A kit as it is written, judged on every machine. */
export function Trial({ trial }: { trial: UseQueryResult<Schemas["KitTrial"]> }) {
  return (
    <section
      aria-labelledby="trial"
      aria-live="polite"
      // biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls, and so is to be reached by keyboard
      tabIndex={0}
      className="xl:sticky xl:top-4 xl:max-h-[calc(100dvh-2rem)] xl:self-start xl:overflow-y-auto"
    >
      <h2 id="trial" className="mb-2 text-2xl font-bold">
        On the fleet, as written
      </h2>
      {trial.isPending && <p className="text-dim">Judging it on every machine …</p>}
      {trial.isError && <Fault text={messageOf(trial.error)} />}
      {trial.data?.problem && <Fault text={trial.data.problem} />}
      {trial.data && !trial.data.problem && (
        <>
          <p className="mb-2">
            fits {trial.data.counts.fits}, fits if {trial.data.counts.fitsIf}, look first {trial.data.counts.lookFirst},
            does not fit {trial.data.counts.doesNotFit}
            <LeanCounts counts={trial.data.counts} />
          </p>
          {trial.data.hints.map((h) => (
            <p key={h} className="mb-2 border-l-4 border-look px-3 py-1">
              {h}.
            </p>
          ))}
          <ul className="bg-leaf">
            {trial.data.rows.map((r) => (
              <li key={r.machine} className="border-b border-rule px-3 py-1.5">
                <span className="flex justify-between gap-3">
                  <b>{r.machine}</b> <VerdictMark answer={r.answer} lean={r.lean} />
                </span>
                {r.was && <span className="block text-sm font-semibold">as it is saved: {r.was}</span>}
                <span className="text-sm text-dim">{r.headline}</span>
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}
