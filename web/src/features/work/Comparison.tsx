import type { Schemas } from "../../api/client";

/** What was measured before and after a change, side by side. */
export function Comparison({ list }: { list: readonly Schemas["BeforeAfter"][] }) {
  if (!list.some((c) => c.change !== undefined)) return null;
  const show = (n: number | undefined) => (n === undefined ? "" : String(n).replace("-", "−"));
  return (
    <table className="my-3 border-collapse bg-leaf text-left" aria-label="Before and after">
      <thead className="border-b-2 border-line">
        <tr>
          <th className="px-3 py-1">Measured</th>
          <th className="px-3 py-1 text-right">Before</th>
          <th className="px-3 py-1 text-right">After</th>
          <th className="px-3 py-1 text-right">Difference</th>
        </tr>
      </thead>
      <tbody>
        {list.map((c) => (
          <tr key={c.name} className="border-b border-rule">
            <th className="px-3 py-1 font-normal">
              {c.name}, {c.unit}
            </th>
            <td className="px-3 py-1 text-right font-mono">{show(c.before)}</td>
            <td className="px-3 py-1 text-right font-mono">{show(c.after)}</td>
            <td className="px-3 py-1 text-right font-mono">
              {c.change !== undefined && (c.change > 0 ? `+${c.change}` : show(c.change))}
              {c.says && <span className="block font-sans text-sm text-dim">{c.says}</span>}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
