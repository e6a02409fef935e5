import type { Schemas } from "../../api/client";
import { State } from "../../ui/badges";
import { Button, Select } from "../../ui/form";

type Opened = Schemas["Opened"];

/** What each column is understood as, to be corrected; what is left out comes last. */
export function Columns({
  opened,
  understood,
  mapping,
  onChange,
}: {
  opened: Opened;
  understood?: Schemas["UnderstoodFile"];
  mapping: string[];
  onChange: (mapping: string[]) => void;
}) {
  const set = (column: number, target: string) => onChange(mapping.map((m, k) => (k === column ? target : m)));
  const all = opened.columns.map((_, i) => i);
  const used = all.filter((i) => mapping[i]);
  // Where a column stands follows the proposal, so that none jumps away while it is corrected.
  const first = all.filter((i) => opened.columns[i]?.target);
  const last = all.filter((i) => !opened.columns[i]?.target);
  const checks = used.filter((i) => mapping[i] === opened.columns[i]?.target && !opened.columns[i]?.sure).length;
  const row = (i: number) => (
    <ColumnRow
      key={i}
      index={i}
      opened={opened}
      samples={understood?.columns.find((u) => u.column === i)?.samples}
      target={mapping[i] ?? ""}
      onChange={(t) => set(i, t)}
    />
  );
  return (
    <section aria-labelledby="columns">
      <h2 id="columns" className="text-2xl font-bold">
        What the columns are
      </h2>
      <p className="mb-2 text-dim">
        {used.length} of {all.length} columns are matched
        {checks > 0 && `, ${checks} of them to be checked`}. What you correct is remembered for the next register.
      </p>
      <div className="relative overflow-x-auto">
        <table className="w-full border-collapse bg-leaf">
          <Head />
          <tbody>{first.map(row)}</tbody>
        </table>
      </div>
      {last.length > 0 && (
        <>
          <h3 className="mt-5 mb-1 text-xl font-bold">Left out: {last.length}</h3>
          <div className="relative overflow-x-auto">
            <table className="w-full border-collapse bg-leaf">
              <Head />
              <tbody>{last.map(row)}</tbody>
            </table>
          </div>
        </>
      )}
    </section>
  );
}

function Head() {
  return (
    <thead className="border-b-2 border-line bg-wall text-left">
      <tr>
        {["Column", "Cells as written → as recorded", "Goes into", "Match"].map((h) => (
          <th key={h} scope="col" className="px-3 py-2">
            {h}
          </th>
        ))}
      </tr>
    </thead>
  );
}

function ColumnRow({
  index,
  opened,
  samples,
  target,
  onChange,
}: {
  index: number;
  opened: Opened;
  samples?: readonly Schemas["Sample"][];
  target: string;
  onChange: (target: string) => void;
}) {
  const c = opened.columns[index];
  if (!c) return null;
  const options = opened.targets.map((t) => [t.key, t.label] as const);
  const instead = opened.targets.find((t) => t.key === c.instead);
  return (
    <tr className="border-b border-rule align-top">
      <th scope="row" className="px-3 py-2 text-left">
        {c.heading || `column ${index + 1}`}
      </th>
      <td className="px-3 py-2 font-mono text-sm">
        {target && samples ? (
          samples.map((s) => (
            <span key={s.written} className="block">
              <span className="text-dim">{s.written}</span> →{" "}
              {s.fault ? <span className="text-bad">{s.recorded}</span> : s.recorded}
            </span>
          ))
        ) : (
          <span className="text-dim">{opened.samples[index]?.join(" · ")}</span>
        )}
      </td>
      <td className="min-w-56 px-3 py-1">
        <Select
          aria-label={`Column ${c.heading} goes into`}
          value={target}
          options={options}
          empty="(left out)"
          onChange={onChange}
        />
        {!target && instead && (
          <Button className="mt-1" onClick={() => onChange(instead.key)}>
            Perhaps {instead.label}
          </Button>
        )}
      </td>
      <td className="px-3 py-2">
        {target !== c.target ? (
          <State tone="cond">set by you</State>
        ) : !target ? (
          <State tone="dim">left out</State>
        ) : c.sure ? (
          <State tone="good">matched</State>
        ) : (
          <State tone="look">check this</State>
        )}
        {target === c.target && target && <span className="block max-w-56 text-sm text-dim">{c.why}</span>}
      </td>
    </tr>
  );
}
