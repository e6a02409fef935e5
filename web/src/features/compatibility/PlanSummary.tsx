import type { Schemas } from "../../api/client";
import { VerdictMark } from "../../ui/badges";
import { Button } from "../../ui/form";
import { showMoney } from "../../ui/money";

/** The answer to a plan: what is done twice, or what cannot go together and what can be done instead. */
export function PlanSummary({ plan: p, onWithout }: { plan: Schemas["PlanSheet"]; onWithout: (kit: string) => void }) {
  return (
    <div className="mb-5" data-plan={p.answer}>
      <VerdictMark answer={p.answer} lean={p.lean || undefined} large />
      {p.conflict.length > 0 && (
        <p className="mt-1 max-w-3xl text-xl">
          {p.conflict.length > 1 ? "These cannot go together: " : "This one cannot be fitted: "}
          <b>{p.conflict.join("; ")}</b>. {p.why}
        </p>
      )}
      {p.without.length > 0 && (
        <ul className="mt-3 max-w-3xl space-y-2" aria-label="What can be done instead">
          {p.without.map((r) => (
            <li key={r.kit} className="border-2 border-line bg-leaf px-4 py-3">
              <div className="flex flex-wrap items-center justify-between gap-3">
                <Button onClick={() => onWithout(r.kit)}>Plan without {r.name}</Button>
                <VerdictMark answer={r.answer} />
              </div>
              <p className="mt-1">
                {r.answer === "does not fit"
                  ? `${r.order.join(", ")}: of these, too, not all can be fitted.`
                  : `${r.order.join(" → ")}. Price ${showMoney(r.price)}, ${(r.minutes / 60).toFixed(1)} hours.`}
              </p>
            </li>
          ))}
        </ul>
      )}
      {!p.whole && (
        <p className="mt-1 max-w-3xl border-l-4 border-look px-3">
          Not every order was tried: there are too many. A better one may exist.
        </p>
      )}
      {p.conflict.length === 0 && (
        <p className="mt-1 max-w-3xl text-xl">
          In this order the least is done twice: {p.repeated} {p.repeated === 1 ? "calibration" : "calibrations"}{" "}
          repeated, the cover off {p.openings} {p.openings === 1 ? "time" : "times"}, {p.builds}{" "}
          {p.builds === 1 ? "build" : "builds"} to flash.
        </p>
      )}
    </div>
  );
}
