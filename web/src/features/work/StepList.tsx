import type { Schemas } from "../../api/client";

export type Order = Schemas["Order"];

export function settled(s: Schemas["OrderStep"]) {
  return Boolean(s.doneAt || s.skippedWhy);
}

export function StepList({ order, at, onPick }: { order: Order; at: number; onPick: (i: number) => void }) {
  return (
    <nav
      aria-label="Steps"
      className="order-last bg-leaf lg:order-first lg:sticky lg:top-4 lg:max-h-[calc(100dvh-2rem)] lg:overflow-y-auto"
    >
      <p className="border-b-2 border-line px-3 py-2 font-bold">
        {order.done} of {order.steps} steps done
      </p>
      <ol>
        {order.stepList.map((s, i) => (
          <li key={s.key}>
            {s.phase !== order.stepList[i - 1]?.phase && (
              <div className="bg-wall px-3 pt-2 pb-1 text-sm font-bold text-dim">{s.phase}</div>
            )}
            <button
              type="button"
              aria-current={at === i ? "step" : undefined}
              onClick={() => onPick(i)}
              className={`flex min-h-10 w-full items-baseline gap-2 px-3 py-1 text-left ${at === i ? "bg-accent text-on-accent" : "hover:bg-wash"}`}
            >
              <span className="w-5 shrink-0 font-mono" aria-hidden="true">
                {s.doneAt ? "✓" : s.skippedWhy ? "–" : "·"}
              </span>
              <span className="min-w-0">
                {s.title}
                <span className="sr-only">{s.doneAt ? " (done)" : s.skippedWhy ? " (skipped)" : ""}</span>
              </span>
            </button>
          </li>
        ))}
        {order.state === "open" && (
          <li>
            <button
              type="button"
              onClick={() => onPick(order.stepList.length)}
              className={`min-h-11 w-full border-t-2 border-line px-3 text-left font-bold ${at >= order.stepList.length ? "bg-accent text-on-accent" : "hover:bg-wash"}`}
            >
              Finish
            </button>
          </li>
        )}
      </ol>
    </nav>
  );
}
