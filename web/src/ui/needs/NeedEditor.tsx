import { useState } from "react";
import type { Column } from "../fleet/question";
import { Button, Select } from "../form";
import { FurtherEditor } from "./FurtherEditor";
import { FormulaFields, KitField, PartsTestFields, TestFields, Words } from "./NeedFields";
import { addWords, blankOf, groupOf, groupWords, type Kind, type Need } from "./needKinds";
import { Sentence } from "./Sentence";

/** A need in plain words: a fact compared, a sum of facts, or a group of needs. It is read as a sentence until it is changed. */
export function NeedEditor({
  need,
  columns,
  onChange,
  onDrop,
  root = false,
  owner = "",
}: {
  need: Need;
  columns: Column[];
  /** The kind of the part that needs it as long as it is fitted; empty for a kit. */
  owner?: string;
  onChange: (n: Need) => void;
  onDrop?: () => void;
  root?: boolean;
}) {
  const group = groupOf(need);
  const parts = group ? (need[group] ?? []) : [];
  const withParts = (list: Need[]) => onChange({ ...need, [group ?? "all"]: list });
  const [open, setOpen] = useState(need.label === "" || root);
  const name = need.label || "this need";
  return (
    <div className={root ? "" : "border-l-4 border-line bg-leaf px-3 py-2"}>
      {!root && (
        <div className="flex items-start justify-between gap-3">
          <div className="min-w-0 pt-1.5">
            <b>{need.label || "Not in words yet"}</b>
            <span className="block text-dim">
              <Sentence need={need} columns={columns} />
            </span>
            {!open && need.why && <span className="block text-sm text-dim">{need.why}</span>}
            {!open && need.hazard && <span className="block text-sm text-look">▲ {need.hazard}</span>}
          </div>
          <Button
            aria-expanded={open}
            aria-label={`${open ? "Close" : "Change"} ${name}`}
            onClick={() => setOpen(!open)}
          >
            {open ? "Close" : "Change"}
          </Button>
        </div>
      )}
      {open && !root && <Words need={need} onChange={onChange} />}
      {open && group && (
        <Select
          aria-label="Group"
          className="my-2 max-w-64"
          value={group}
          onChange={(g) => {
            const { [group]: list, ...rest } = need;
            onChange({ ...rest, [g]: list });
          }}
          options={Object.entries(groupWords)}
        />
      )}
      {group && (
        <ul className="mt-2 space-y-2">
          {parts.map((p, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a need has no identity but its place
            <li key={i}>
              <NeedEditor
                need={p}
                owner={owner}
                columns={columns}
                onChange={(n) => withParts(parts.map((x, k) => (k === i ? n : x)))}
                onDrop={() => withParts(parts.filter((_, k) => k !== i))}
              />
            </li>
          ))}
        </ul>
      )}
      {open && group && (
        <div className="mt-3 flex flex-wrap gap-2">
          {(Object.keys(blankOf) as Kind[])
            .filter((k) => (k !== "further" || group !== "none") && (!owner || !["kit", "further", "fact"].includes(k)))
            .map((k) => (
              <Button key={k} onClick={() => withParts([...parts, blankOf[k]])}>
                {addWords[k]}
              </Button>
            ))}
        </div>
      )}
      {open && need.test && !need.test.of && (
        <TestFields test={need.test} columns={columns} onChange={(test) => onChange({ ...need, test })} />
      )}
      {open && need.test?.of && (
        <PartsTestFields test={need.test} owner={owner} onChange={(test) => onChange({ ...need, test })} />
      )}
      {open && owner && !group && need.test && (
        <div className="mt-2 flex flex-wrap gap-2">
          <Button onClick={() => onChange({ ...need, test: undefined, any: [need] })}>Make it one of several</Button>
          <Button onClick={() => onChange({ ...need, test: undefined, none: [need] })}>Make it the opposite</Button>
          <Button
            onClick={() =>
              onChange({
                ...need,
                test: undefined,
                formula: { text: "", least: "marked", of: need.test?.of },
              })
            }
          >
            Make it a sum
          </Button>
        </div>
      )}
      {open && need.formula && (
        <FormulaFields
          formula={need.formula}
          owner={owner}
          columns={columns}
          onChange={(formula) => onChange({ ...need, formula })}
        />
      )}
      {open && need.further && (
        <FurtherEditor further={need.further} onChange={(further) => onChange({ ...need, further })} />
      )}
      {open && need.kit && <KitField kit={need.kit} onChange={(kit) => onChange({ ...need, kit })} />}
      {open && onDrop && (
        <Button danger className="mt-2" onClick={onDrop}>
          Remove this need
        </Button>
      )}
    </div>
  );
}
