type Point = { on: string; number: number; value: string; ended: boolean };

const W = 460;
const H = 150;
const LEFT = 62;

/** Values over days: filled while valid, open where one was made invalid later. Their numbers stand beside. */
export function ValuePlot({ points, unit }: { points: readonly Point[]; unit?: string }) {
  if (points.length < 2) return null;
  const days = points.map((p) => Date.parse(p.on));
  const [from, to] = [Math.min(...days), Math.max(...days)];
  const numbers = points.map((p) => p.number);
  const [least, most] = [Math.min(...numbers), Math.max(...numbers)];
  const x = (day: number) => LEFT + ((day - from) / (to - from || 1)) * (W - LEFT - 14);
  const y = (n: number) => (most === least ? H / 2 : 14 + ((most - n) / (most - least)) * (H - 44));
  const at = points.map((p, i) => [x(days[i] ?? from), y(p.number)] as const);
  return (
    <svg
      viewBox={`0 0 ${W} ${H}`}
      className="my-2 w-full max-w-xl bg-leaf"
      role="img"
      aria-label={`${points.length} values, from ${points[0]?.value} on ${points[0]?.on} to ${points.at(-1)?.value} on ${points.at(-1)?.on}`}
    >
      {[...new Set([most, least])].map((n) => (
        <g key={n}>
          <line x1={LEFT} x2={W - 6} y1={y(n)} y2={y(n)} className="stroke-rule" />
          <text x={LEFT - 6} y={y(n) + 5} textAnchor="end" className="fill-dim text-[15px]">
            {n}
          </text>
        </g>
      ))}
      <text x="2" y={H - 8} className="fill-dim text-[15px]">
        {unit}
      </text>
      <text x={LEFT} y={H - 8} className="fill-dim text-[15px]">
        {points[0]?.on}
      </text>
      <text x={W - 6} y={H - 8} textAnchor="end" className="fill-dim text-[15px]">
        {points.at(-1)?.on}
      </text>
      <polyline
        points={at.map(([px, py]) => `${px},${py}`).join(" ")}
        fill="none"
        strokeWidth="2"
        className="stroke-accent"
      />
      {at.map(([px, py], i) => (
        <circle
          // biome-ignore lint/suspicious/noArrayIndexKey: two values can be of one day
          key={i}
          cx={px}
          cy={py}
          r="5"
          strokeWidth="2.5"
          className={points[i]?.ended ? "fill-leaf stroke-accent" : "fill-accent stroke-accent"}
        />
      ))}
    </svg>
  );
}
