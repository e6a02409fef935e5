import { showDay } from "../../ui/dates";

/** Availability week by week, drawn from 0 at the foot to 100 % at the line. A week in which the shop was closed has no bar. */
export function Weeks({
  of,
  weeks,
  mondays,
}: {
  of: string;
  weeks: readonly (number | null | undefined)[];
  mondays: readonly string[];
}) {
  const wide = 8;
  const high = 28;
  const told = weeks.flatMap((w) => (typeof w === "number" ? [w] : []));
  const words = told.length
    ? `${of}: between ${Math.round(100 * Math.min(...told))} and ${Math.round(100 * Math.max(...told))} % in ${told.length} weeks`
    : `${of}: no week with opening hours`;
  return (
    <svg width={wide * weeks.length} height={high + 2} role="img" aria-label={words}>
      <line x1="0" x2={wide * weeks.length} y1="1" y2="1" className="stroke-line" strokeDasharray="2 2" />
      {weeks.map((w, i) =>
        typeof w === "number" ? (
          <rect
            key={mondays[i]}
            x={wide * i + 1}
            y={1 + high * (1 - w)}
            width={wide - 2}
            height={Math.max(1, high * w)}
            className={w < 0.9 ? "fill-look" : "fill-accent"}
          >
            <title>{`from ${showDay(mondays[i])}: ${(100 * w).toFixed(1)} %`}</title>
          </rect>
        ) : null,
      )}
    </svg>
  );
}
