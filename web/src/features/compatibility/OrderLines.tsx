import type { Schemas } from "../../api/client";
import { showMoney } from "../../ui/money";

/** What has to be bought: each kit with what comes in its box, and for which machines. */
export function OrderLines({ lines }: { lines: readonly Schemas["OrderLine"][] }) {
  return (
    <table className="w-full border-collapse text-left">
      <thead className="border-b-2 border-line">
        <tr>
          <th className="py-1 pr-4 text-right">Count</th>
          <th className="py-1">What</th>
          <th className="py-1 text-right">Price</th>
        </tr>
      </thead>
      <tbody>
        {lines.map((l) => (
          <tr key={l.kind + l.what} className="border-b border-rule align-top">
            <td className="py-1 pr-4 text-right font-mono">{l.count}</td>
            <td className="py-1">
              <b>{l.what}</b> {l.kind !== "kit" && <span className="text-sm text-dim">{l.kind}</span>}
              {l.machines.length > 0 && <span className="block text-sm">for {l.machines.join(", ")}</span>}
              {l.onShelf ? <span className="block text-sm text-good">■ {l.onShelf} on the shelf already</span> : null}
              {l.box.length > 0 && (
                <ul className="border-l-2 border-line pl-3 text-sm text-dim" aria-label={`In the box of ${l.what}`}>
                  {l.box.map((b) => (
                    <li key={b.what}>
                      {b.count > 1 && `${b.count} boxes with `}
                      {b.what}
                    </li>
                  ))}
                </ul>
              )}
            </td>
            <td className="py-1 text-right font-mono">{l.price ? showMoney(l.price) : ""}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
