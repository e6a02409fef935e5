import { useState } from "react";
import type { Schemas } from "../../api/client";
import { GradeMark } from "../../ui/badges";
import { Check } from "../../ui/form";

/** Two sides, slot by slot: what differs, and on request what differs only in
 *  how sure it is or is unknown on one side. */
export function Differences({
  comparison: c,
  names,
  narrow = false,
}: {
  comparison: Schemas["Comparison"];
  names: [string, string];
  narrow?: boolean;
}) {
  const [all, setAll] = useState(false);
  const real = c.slots.filter((r) => r.differ);
  const shown = all ? c.slots : real;
  return (
    <>
      <p className="text-dim">
        {real.length === 0
          ? "No value differs."
          : real.length === 1
            ? "1 value differs."
            : `${real.length} values differ.`}{" "}
        {c.same} are known and alike.
      </p>
      {c.slots.length > real.length && (
        <Check
          label={`Also ${c.slots.length - real.length} that are less sure or unknown on one side`}
          checked={all}
          onChange={setAll}
        />
      )}
      {shown.length > 0 && (
        <div className="relative overflow-x-auto bg-leaf">
          <table className="w-full border-collapse text-left">
            <thead className="border-b-2 border-line bg-wall">
              <tr>
                <th scope="col" className="px-3 py-2">
                  What
                </th>
                <th scope="col" className="px-3 py-2">
                  {names[0]}
                </th>
                <th scope="col" className="px-3 py-2">
                  {names[1]}
                </th>
              </tr>
            </thead>
            <tbody>
              {shown.map((r) => (
                <tr key={r.key} className="border-b border-rule align-top">
                  <th scope="row" className="px-3 py-1.5 font-normal">
                    <b>{r.slot}</b> {narrow && <br />}
                    <span className="text-dim">{r.short}</span>
                    {r.why && (
                      <span className="block font-semibold text-look">
                        <span aria-hidden="true">▲ </span>can cause it: {r.why}
                      </span>
                    )}
                  </th>
                  {[r.a, r.b].map((f, i) => (
                    <td key={i === 0 ? "a" : "b"} className="px-3 py-1.5">
                      <span className={f.grade === "unknown" ? "text-dim" : "font-semibold"}>
                        {r.differ && i === 1 && <span aria-hidden="true">≠ </span>}
                        {f.value}
                      </span>
                      <span className="block text-sm text-dim">
                        <GradeMark grade={f.grade} word={f.grade !== "unknown"} />
                      </span>
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </>
  );
}
