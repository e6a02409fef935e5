import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { VerdictMark } from "../../ui/badges";
import { LinkButton } from "../../ui/LinkButton";
import { showMoney } from "../../ui/money";

/** The kits of a plan in their order, each with its verdict and what it asks for. */
export function PlanSteps({ steps, machine }: { steps: Schemas["PlanSheet"]["steps"]; machine: number }) {
  return (
    <div>
      <ol className="space-y-3">
        {steps.map((s, i) => (
          <li key={s.kit} className="border-2 border-line bg-leaf px-4 py-3">
            <div className="flex flex-wrap items-baseline justify-between gap-x-4">
              <h2 className="text-xl font-bold">
                {i + 1}.{" "}
                <Link className="underline underline-offset-4" to={`/ask/${s.kit}/${machine}`}>
                  {s.name}
                </Link>
              </h2>
              <VerdictMark answer={s.answer} lean={s.lean || undefined} />
            </div>
            {s.together && (
              <p className="border-l-4 border-cond px-3">
                Together with the one before: the machine is not run in between.
              </p>
            )}
            {s.waits && (
              <p className="border-l-4 border-cond px-3">
                Not met until the next is in, so the machine is not run before: {s.waits}
              </p>
            )}
            {s.answer !== "fits if" && <p>{s.headline}</p>}
            {s.further.map((f) => (
              <p key={f.key}>
                With: {f.title}, price {f.price}, {f.minutes} min
              </p>
            ))}
            <p className="text-dim">
              {s.minutes} min, price {showMoney(s.price)}
              {s.opens && ", cover off"}. {s.calibrations.length > 0 && `Then: ${s.calibrations.join(" → ")}`}
            </p>
            <p className="mt-2">
              <LinkButton to={`/ask/${s.kit}/${machine}`}>Why</LinkButton>
            </p>
          </li>
        ))}
      </ol>
      <p className="mt-3 text-dim">
        Each kit is a work order of its own; the next is judged anew when the one before it is finished.
      </p>
    </div>
  );
}
