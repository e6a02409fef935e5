import type { Schemas } from "../../api/client";
import { PhotoStrip } from "../../ui/photos/PhotoStrip";

/** What was measured and seen before and after a change, side by side. */
export function Comparison({ order }: { order: Schemas["Order"] }) {
  const { compared, seen } = order;
  const pictures = seen.before.length > 0 && seen.after.length > 0;
  const measured = compared.some((c) => c.change !== undefined);
  if (!measured && !pictures) return null;
  return (
    <section aria-label="Before and after" className="my-3 space-y-3">
      {measured && <Measured list={compared} />}
      {pictures && (
        <div className="grid gap-4 sm:grid-cols-2">
          <div>
            <h3 className="font-bold">Before</h3>
            <PhotoStrip ids={seen.before} of="the baseline" />
          </div>
          <div>
            <h3 className="font-bold">After</h3>
            <PhotoStrip ids={seen.after} of="the result" />
          </div>
        </div>
      )}
    </section>
  );
}

function Measured({ list }: { list: readonly Schemas["BeforeAfter"][] }) {
  const show = (n: number | undefined) => (n === undefined ? "" : String(n).replace("-", "−"));
  return (
    <table className="border-collapse bg-leaf text-left">
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
