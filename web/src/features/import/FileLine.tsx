import { useState } from "react";
import type { Schemas } from "../../api/client";
import { Button, Field, Select } from "../../ui/form";
import { OptionalNumber } from "../../ui/NumberInput";
import type { Said } from "./useRegisterFile";

export const count = (n: number, of: string) => `${n} ${of}${n === 1 ? "" : "s"}`;

/** How the file was read, and where its headings are, to be set otherwise. */
export function FileLine({
  name,
  opened,
  busy,
  onLayout,
  onOther,
}: {
  name: string;
  opened: Schemas["Opened"];
  busy: boolean;
  onLayout: (layout: Said) => void;
  onOther: () => void;
}) {
  const [line, setLine] = useState<number | undefined>(opened.headingLine);
  const [lines, setLines] = useState(String(opened.headingLines));
  const cut = { ",": "commas", ";": "semicolons", "\t": "tabs", "|": "bars" }[opened.separator];
  const at =
    opened.headingLines === 2
      ? `headings in lines ${opened.headingLine} and ${opened.headingLine + 1}`
      : `headings in line ${opened.headingLine}`;
  return (
    <div>
      <div className="flex flex-wrap items-center gap-4">
        <span>
          <b>{name}</b>: {count(opened.rows, "row")}, {count(opened.columns.length, "column")}, separated by{" "}
          {cut ?? opened.separator}, {opened.encoding}, {at}
        </span>
        <Button onClick={onOther}>Another file</Button>
      </div>
      {opened.above.length > 0 && <p className="text-dim">Above the headings: {opened.above.join(" / ")}</p>}
      <details className="mt-1">
        <summary className="min-h-11 cursor-pointer py-2">The headings are elsewhere</summary>
        <form
          className="flex flex-wrap items-end gap-3"
          onSubmit={(e) => {
            e.preventDefault();
            onLayout({ headingLine: line, headingLines: Number(lines) });
          }}
        >
          <Field label="Line of the headings" htmlFor="heading-line">
            <OptionalNumber id="heading-line" className="w-24" value={line} onChange={setLine} />
          </Field>
          <Field label="They take" htmlFor="heading-lines">
            <Select
              id="heading-lines"
              value={lines}
              onChange={setLines}
              options={[
                ["1", "one line"],
                ["2", "two lines"],
              ]}
            />
          </Field>
          <Button type="submit" disabled={busy}>
            Use these headings
          </Button>
        </form>
      </details>
    </div>
  );
}
