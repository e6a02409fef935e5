import { useWindowVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useLayoutEffect, useRef, useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { alongRows } from "../../ui/alongRows";
import type { Question } from "../../ui/fleet/question";
import type { Paged } from "../../ui/pages";
import { AnswerCell } from "./AnswerCell";
import { SelectCell } from "./SelectCell";

type Answer = Schemas["Answer"];

type Line = Schemas["Line"];

/** Up to this many rows the whole table is on the page, and prints. */
const WHOLE = 120;

type Entry = { group: string; count: number } | { line: Line };

/** The fleet's answer. Of a large fleet only what is on the screen is drawn. */
export function AnswerTable({
  answer,
  question,
  pages,
  onSort,
  selected,
  onSelect,
}: {
  answer: Answer;
  question: Question;
  pages: Paged;
  onSort: (key: string) => void;
  selected: readonly number[];
  onSelect: (ids: readonly number[]) => void;
}) {
  const body = useRef<HTMLTableSectionElement>(null);
  const [margin, setMargin] = useState(0);
  useLayoutEffect(() => {
    if (body.current) setMargin(body.current.getBoundingClientRect().top + scrollY);
  }, []);
  const entries: Entry[] = [];
  for (const line of answer.rows) {
    const before = entries.at(-1);
    if (question.group && (!before || !("line" in before) || before.line.group !== line.group))
      entries.push({ group: line.group ?? "", count: answer.groups?.find((g) => g.name === line.group)?.count ?? 0 });
    entries.push({ line });
  }
  const many = entries.length > WHOLE;
  const rows = useWindowVirtualizer({
    count: entries.length,
    estimateSize: () => (document.documentElement.dataset.density === "compact" ? 27 : 56),
    overscan: 15,
    scrollMargin: margin,
    enabled: many,
  });
  const seen = many ? rows.getVirtualItems() : entries.map((_, index) => ({ index, start: 0, end: 0 }));
  // The next machines are asked for when the last of these come into sight.
  const last = seen.at(-1)?.index ?? 0;
  const { hasNextPage, isFetching, fetchNextPage } = pages;
  useEffect(() => {
    if (many && hasNextPage && !isFetching && last >= entries.length - 20) fetchNextPage();
  }, [many, hasNextPage, isFetching, last, entries.length, fetchNextPage]);
  const above = many ? (seen[0]?.start ?? margin) - margin : 0;
  const below = many ? rows.getTotalSize() - ((seen.at(-1)?.end ?? margin) - margin) : 0;
  const head = (key: string, label: string) => {
    const sorted = (question.sort || "machine.name") === key;
    return (
      <th
        key={key}
        scope="col"
        aria-sort={sorted ? (question.down ? "descending" : "ascending") : "none"}
        className="p-0"
      >
        <button
          type="button"
          onClick={() => onSort(key)}
          className="flex min-h-11 w-full items-center gap-1 px-3 text-left font-bold hover:bg-wash"
        >
          {label} <span aria-hidden="true">{sorted ? (question.down ? "▾" : "▴") : ""}</span>
        </button>
      </th>
    );
  };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: only passes arrow keys on to the row links inside
    <div className="relative overflow-x-auto bg-leaf" onKeyDown={alongRows}>
      <table className="w-full border-collapse">
        <thead className="border-b-2 border-line bg-wall text-left">
          <tr>
            <SelectCell
              label="Select all machines shown"
              checked={selected.length > 0 && answer.rows.every((r) => selected.includes(r.id))}
              onChange={(on) => onSelect(on ? answer.rows.map((r) => r.id) : [])}
            />
            {head("machine.name", "Machine")}
            {answer.columns.map((c) => head(c.key, c.label))}
          </tr>
        </thead>
        <tbody ref={body}>
          {above > 0 && (
            <tr>
              <td style={{ height: above }} />
            </tr>
          )}
          {seen.map(({ index }) => {
            const e = entries[index] as Entry;
            return "line" in e ? (
              <tr
                key={e.line.id}
                data-index={index}
                ref={many ? rows.measureElement : undefined}
                className="border-b border-rule bg-leaf align-top hover:bg-wash compact:align-middle"
              >
                <SelectCell
                  label={`Select ${e.line.name}`}
                  checked={selected.includes(e.line.id)}
                  onChange={(on) => onSelect(on ? [...selected, e.line.id] : selected.filter((id) => id !== e.line.id))}
                />
                <th scope="row" className="sticky left-0 z-10 bg-inherit p-0 text-left">
                  <Link
                    data-row
                    to={`/machine/${e.line.id}`}
                    className="flex min-h-12 items-center px-3 py-0.5 text-lg leading-tight font-bold compact:min-h-9 compact:text-base"
                  >
                    {e.line.name}
                  </Link>
                </th>
                {e.line.cells.map((cell, i) => (
                  <AnswerCell key={answer.columns[i]?.key} cell={cell} column={answer.columns[i]} />
                ))}
              </tr>
            ) : (
              <tr key={`group ${e.group}`} data-index={index} ref={many ? rows.measureElement : undefined}>
                <th
                  scope="rowgroup"
                  colSpan={answer.columns.length + 2}
                  className="border-b-2 border-line bg-wall px-3 pt-4 pb-1 text-left"
                >
                  {e.group} <span className="font-normal text-dim">{e.count}</span>
                </th>
              </tr>
            );
          })}
          {below > 0 && (
            <tr>
              <td style={{ height: below }} />
            </tr>
          )}
        </tbody>
      </table>
    </div>
  );
}
