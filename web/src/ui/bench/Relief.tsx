import type { Schemas } from "../../api/client";

/** Stands for a point that was not probed. */
const HOLE = 1000;

/** A bed seen from above, the front below: how high each point lies, and the knobs with their turns. */
export function Relief({ relief: r }: { relief: Schemas["Relief"] }) {
  const rows = r.heights.length;
  const columns = r.heights[0]?.length ?? 0;
  const known = r.heights.flat().filter((z) => z !== HOLE);
  const low = Math.min(...known);
  const high = Math.max(...known);
  const [left, right] = [r.x[0] ?? 0, r.x[1] ?? 1];
  const [front, back] = [r.y[0] ?? 0, r.y[1] ?? 1];
  const outlying = new Set(r.outliers.map(([row, column]) => `${row} ${column}`));
  const numbers = rows * columns <= 64;
  const w = 100 / columns;
  const h = 100 / rows;
  /** A place on the bed, on the drawing. */
  const at = (x: number, y: number) => [
    w / 2 + ((x - left) / (right - left || 1)) * (100 - w),
    100 - h / 2 - ((y - front) / (back - front || 1)) * (100 - h),
  ];
  return (
    <figure className="max-w-md">
      <svg
        viewBox="-12 -12 124 124"
        className="w-full border-2 border-line bg-leaf"
        role="img"
        aria-label={`Bed from above, ${rows} × ${columns} points, ${low} to ${high} mm`}
      >
        {r.heights.map((row, i) =>
          row.map((z, k) => {
            const share = z === HOLE ? 0 : high > low ? (z - low) / (high - low) : 0.5;
            const x = k * w;
            const y = 100 - (i + 1) * h;
            const key = `${i} ${k}`;
            return (
              <g key={key}>
                <rect
                  x={x}
                  y={y}
                  width={w}
                  height={h}
                  className={z === HOLE ? "fill-wall" : "fill-accent"}
                  fillOpacity={z === HOLE ? 1 : 0.08 + 0.72 * share}
                  stroke="var(--rule)"
                  strokeWidth="0.3"
                />
                {outlying.has(key) && (
                  <rect
                    x={x + 0.6}
                    y={y + 0.6}
                    width={w - 1.2}
                    height={h - 1.2}
                    fill="none"
                    className="stroke-bad"
                    strokeWidth="1.2"
                  />
                )}
                {numbers && (
                  <text
                    x={x + w / 2}
                    y={y + h / 2 + 1.4}
                    fontSize={Math.min(4.6, w / 3.4)}
                    textAnchor="middle"
                    className={share > 0.55 ? "fill-on-accent font-mono" : "fill-ink font-mono"}
                  >
                    {z === HOLE ? "–" : z.toFixed(2)}
                  </text>
                )}
              </g>
            );
          }),
        )}
        {r.turns.map((t) => {
          const [x = 0, y = 0] = at(t.x, t.y);
          return (
            <g key={t.name}>
              <circle cx={x} cy={y} r="4" className="fill-leaf stroke-ink" strokeWidth="1" />
              <text x={x} y={y + 1.6} fontSize="4.4" textAnchor="middle" className="fill-ink font-bold">
                {t.direction === "stays" ? "•" : t.direction.includes("counter") ? "↺" : "↻"}
              </text>
            </g>
          );
        })}
        <text x="50" y="108" fontSize="5" textAnchor="middle" className="fill-dim">
          front
        </text>
      </svg>
      <figcaption>
        Darker is higher: {low.toFixed(2)} to {high.toFixed(2)} mm.
        {outlying.size > 0 && " A frame marks what does not go with the points around."}
        {r.turns.length > 0 && (
          <ul>
            {r.turns.map((t) => (
              <li key={t.name}>
                <b>{t.name}</b>: {t.direction}
              </li>
            ))}
          </ul>
        )}
      </figcaption>
    </figure>
  );
}
