import type { Schemas } from "../../api/client";
import { State } from "../../ui/badges";

/** Where each wire of the old board goes on the new one, by the wire sheet: each is ticked as it is moved. */
export function TransferList({
  transfer,
  moved,
  disabled,
  onMoved,
}: {
  transfer: Schemas["Transfer"];
  moved: readonly string[];
  disabled: boolean;
  onMoved: (keys: string[]) => void;
}) {
  return (
    <section aria-label="Wires to move" className="space-y-3">
      <p className="font-semibold">
        {transfer.wires.filter((w) => moved.includes(w.key)).length} of {transfer.wires.length} wires are moved
      </p>
      <div className="relative overflow-x-auto">
        <table className="w-full border-collapse text-left">
          <thead>
            <tr className="border-b-2 border-line">
              <th className="w-12 px-2 py-1">
                <span className="sr-only">Moved</span>
              </th>
              <th className="px-2 py-1">From</th>
              <th className="px-2 py-1">Carries</th>
              <th className="px-2 py-1">To</th>
            </tr>
          </thead>
          <tbody>
            {transfer.wires.map((w) => (
              <tr key={w.key} className="border-b border-rule align-top">
                <td className="p-0">
                  <label className="grid size-12 cursor-pointer place-items-center">
                    <input
                      type="checkbox"
                      className="size-6 accent-accent"
                      aria-label={`Moved: ${w.connector} pin ${w.pin}`}
                      disabled={disabled}
                      checked={moved.includes(w.key)}
                      onChange={(e) =>
                        onMoved(e.target.checked ? [...moved, w.key] : moved.filter((key) => key !== w.key))
                      }
                    />
                  </label>
                </td>
                <th scope="row" className="px-2 py-2 font-semibold">
                  {w.connector}, pin {w.pin}
                </th>
                <td className="px-2 py-2">
                  {w.carries} {w.label && <span className="font-mono text-dim">{w.label}</span>}
                </td>
                <td className="px-2 py-2">
                  {w.to && (
                    <b>
                      {w.to}
                      {w.toPin ? `, pin ${w.toPin}` : ""}
                    </b>
                  )}
                  {w.note && (
                    <span className="block">
                      <State tone={w.toPin ? "cond" : "look"}>{w.note}</State>
                    </span>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {transfer.motors.map((m) => (
        <p key={m.name}>
          <b>{m.name}</b>: {m.fault || m.repin.words}
        </p>
      ))}
    </section>
  );
}
