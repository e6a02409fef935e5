import type { Schemas } from "../../api/client";
import { showDay } from "../../ui/dates";

const days = ["Sun", "Mon", "Tue", "Wed", "Thu", "Fri", "Sat"];
const high = 48;
const wide = 10;

/** The use of a machine over weeks, as bars: filled where it was read, outlined where it lies between readings. */
export function UseWeeks({ meter: m }: { meter: Schemas["MeterSheet"] }) {
  if (m.weeks.length < 2) return null;
  const most = Math.max(...m.weeks.map((w) => w.amount), 1e-9);
  const between = m.weeks.some((w) => w.between);
  const first = m.weeks[0];
  return (
    <figure className="mb-3">
      <svg
        role="img"
        aria-label={`Use a week since ${showDay(first?.monday)}: ${m.weeks.map((w) => Math.round(w.amount)).join(", ")} ${m.unit}`}
        viewBox={`0 0 ${m.weeks.length * wide} ${high}`}
        className="h-14 w-full max-w-md border-b-2 border-line"
        preserveAspectRatio="none"
      >
        {m.weeks.map((w, i) => {
          const tall = (w.amount / most) * (high - 2);
          return (
            <rect
              key={w.monday}
              x={i * wide + 1.5}
              y={high - tall}
              width={wide - 3}
              height={tall}
              className={w.between ? "fill-none stroke-accent" : "fill-accent stroke-accent"}
              vectorEffect="non-scaling-stroke"
            >
              <title>{`week of ${showDay(w.monday)}: ${Math.round(w.amount)} ${m.unit}${w.between ? ", between readings" : ""}`}</title>
            </rect>
          );
        })}
      </svg>
      <figcaption className="text-sm text-dim">
        Use a week since {showDay(first?.monday)}, at most {Math.round(most)} {m.unit}
        {between && "; outlined: between readings more than a week apart"}
        {m.weekdays && `. By weekday: ${m.weekdays.map((n, i) => `${days[i]} ${n.toFixed(1)}`).join(", ")} ${m.unit}`}
      </figcaption>
    </figure>
  );
}
