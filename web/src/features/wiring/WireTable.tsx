import { X } from "lucide-react";
import type { Schemas } from "../../api/client";
import { Button, TextInput } from "../../ui/form";
import { OptionalNumber } from "../../ui/NumberInput";
import { type Draft, draftOf, fields, nextWire, wiresOf } from "./wireDraft";

const beforePolarity = fields.slice(0, 6);
const afterPolarity = fields.slice(6);

/** The wires of a sheet, a line each, and what adds one or a whole port's. */
export function WireTable({
  wires,
  ports,
  volts,
  onChange,
}: {
  wires: readonly Draft[];
  ports: readonly Schemas["Port"][];
  volts?: number;
  onChange: (wires: Draft[]) => void;
}) {
  return (
    <>
      <div className="relative overflow-x-auto">
        <table className="border-collapse text-left">
          <thead>
            <tr>
              {beforePolarity.map(([k, label]) => (
                <th key={k} className="px-1 py-1 font-semibold">
                  {label}
                </th>
              ))}
              <th className="px-1 py-1 font-semibold">Polarity</th>
              {afterPolarity.map(([k, label]) => (
                <th key={k} className="px-1 py-1 font-semibold">
                  {label}
                </th>
              ))}
              <th />
            </tr>
          </thead>
          <tbody>
            {wires.map((w, i) => (
              <WireLine
                // biome-ignore lint/suspicious/noArrayIndexKey: a line has no identity but its place
                key={i}
                line={i + 1}
                wire={w}
                onChange={(d) => onChange(wires.map((x, k) => (k === i ? d : x)))}
                onRemove={() => onChange(wires.filter((_, k) => k !== i))}
              />
            ))}
          </tbody>
        </table>
      </div>
      <div className="mt-3 flex flex-wrap gap-2">
        <Button onClick={() => onChange([...wires, draftOf(nextWire(wires.at(-1), volts))])}>Add a line</Button>
        {ports.map((p) => (
          <Button key={`${p.name}${p.ways}`} onClick={() => onChange([...wires, ...wiresOf(p, volts)])}>
            Add {p.name}, {p.ways} pins
          </Button>
        ))}
      </div>
    </>
  );
}

function WireLine({
  line,
  wire,
  onChange,
  onRemove,
}: {
  line: number;
  wire: Draft;
  onChange: (wire: Draft) => void;
  onRemove: () => void;
}) {
  const cell = (field: (typeof fields)[number]) => {
    const name = `Line ${line}: ${field[1]}`;
    return (
      <td key={field[0]} className="p-1">
        {field.length === 4 ? (
          <OptionalNumber
            aria-label={name}
            className={field[2]}
            unit={field[3]}
            value={wire[field[0]]}
            onChange={(n) => onChange({ ...wire, [field[0]]: n })}
          />
        ) : (
          <TextInput
            aria-label={name}
            className={field[2]}
            value={wire[field[0]]}
            onChange={(v) => onChange({ ...wire, [field[0]]: v })}
          />
        )}
      </td>
    );
  };
  return (
    <tr className="align-top">
      {beforePolarity.map(cell)}
      <td className="p-1">
        <select
          aria-label={`Line ${line}: Polarity`}
          className="min-h-11 w-24 border-2 border-line bg-leaf px-1"
          value={wire.polarity}
          onChange={(e) => onChange({ ...wire, polarity: e.target.value })}
        >
          <option value="">either</option>
          <option>+</option>
          <option>−</option>
          <option>signal</option>
        </select>
      </td>
      {afterPolarity.map(cell)}
      <td className="p-1">
        <button
          type="button"
          aria-label={`Remove line ${line}`}
          className="grid size-11 place-items-center border-2 border-line hover:border-bad"
          onClick={onRemove}
        >
          <X size={18} />
        </button>
      </td>
    </tr>
  );
}
