import type { Schemas } from "../api/client";
import { Select } from "../parts/form";
import { State } from "../parts/marks";

/** The proposal what each column is, to be corrected. */
export function Columns({
  opened,
  mapping,
  onChange,
}: {
  opened: Schemas["Opened"];
  mapping: string[];
  onChange: (mapping: string[]) => void;
}) {
  const options = opened.targets.map((t) => [t.key, t.label] as const);
  return (
    <section aria-labelledby="columns">
      <h2 id="columns" className="mb-2 text-2xl font-bold">
        What the columns are
      </h2>
      <table className="w-full border-collapse bg-leaf">
        <thead className="border-b-2 border-line bg-wall text-left">
          <tr>
            <th scope="col" className="px-3 py-2">
              Heading
            </th>
            <th scope="col" className="px-3 py-2">
              First cells
            </th>
            <th scope="col" className="px-3 py-2">
              Goes into
            </th>
            <th scope="col" className="px-3 py-2">
              Match
            </th>
          </tr>
        </thead>
        <tbody>
          {opened.columns.map((c, i) => {
            const target = mapping[i] ?? "";
            return (
              // biome-ignore lint/suspicious/noArrayIndexKey: columns have no other identity
              <tr key={i} className="border-b border-rule">
                <th scope="row" className="px-3 py-1 text-left">
                  {c.heading || `column ${i + 1}`}
                </th>
                <td className="max-w-64 truncate px-3 py-1 font-mono text-dim">{opened.samples[i]?.join(" · ")}</td>
                <td className="px-3 py-1">
                  <Select
                    aria-label={`Column ${c.heading} goes into`}
                    value={target}
                    options={options}
                    empty="(left out)"
                    onChange={(t) => onChange(mapping.map((m, k) => (k === i ? t : m)))}
                  />
                </td>
                <td className="px-3 py-1">
                  {target !== c.target ? (
                    <State tone="cond">yours</State>
                  ) : !target ? (
                    <State tone="dim">left out</State>
                  ) : c.sure ? (
                    <State tone="good">plain</State>
                  ) : (
                    <State tone="look">a guess: look</State>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}
