import { useState } from "react";
import type { Column } from "../../ui/fleet/question";
import { Check, TextInput } from "../../ui/form";
import { Panel } from "../../ui/Panel";

/** Which columns are shown; found by typing, in the order in which they are picked. */
export function ColumnPicker({
  columns,
  picked,
  onChange,
  onClose,
}: {
  columns: Column[];
  picked: readonly string[];
  onChange: (keys: string[]) => void;
  onClose: () => void;
}) {
  const [text, setText] = useState("");
  const needle = text.toLowerCase();
  const shown = columns.filter((c) => `${c.group} ${c.label}`.toLowerCase().includes(needle));
  const groups = [...new Set(shown.map((c) => c.group))];
  return (
    <Panel open onOpenChange={onClose} title="Columns shown">
      <TextInput aria-label="Find a column" placeholder="Find a column" value={text} onChange={setText} autoFocus />
      {groups.map((g) => (
        <fieldset key={g} className="mt-4">
          <legend className="font-bold text-dim">{g}</legend>
          <div className="grid sm:grid-cols-2">
            {shown
              .filter((c) => c.group === g)
              .map((c) => (
                <Check
                  key={c.key}
                  label={c.label}
                  checked={picked.includes(c.key)}
                  onChange={(on) => onChange(on ? [...picked, c.key] : picked.filter((k) => k !== c.key))}
                />
              ))}
          </div>
        </fieldset>
      ))}
      {shown.length === 0 && <p className="mt-4 text-dim">No column has this name.</p>}
    </Panel>
  );
}
