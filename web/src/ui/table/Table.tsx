import { useEffect, useMemo } from "react";
import type { Paged } from "../pages";
import { alongCells, alongRows } from "./arrows";
import type { Arrangement, Column } from "./column";
import { entriesOf } from "./entries";
import { HeadCell } from "./HeadCell";
import { SelectCell } from "./SelectCell";
import { TableRow } from "./TableRow";
import { useDrawn } from "./useDrawn";
import { useSteady } from "./useSteady";

type Key = string | number;

/** Rows under a head that stays in sight. Arrow keys go along the rows' marked controls
 * (data-row), or over the cells (data-cell). Of many rows only what is on the screen is drawn. */
export function Table<R>({
  label,
  rows,
  columns: all,
  keyOf,
  nameOf,
  how,
  onArrange,
  groupOf,
  groupCount,
  pages,
  selected,
  onSelect,
  arrows = "rows",
  framed = false,
  rowClass,
}: {
  label: string;
  /** In the order in which they are shown. */
  rows: readonly R[];
  columns: readonly Column<R>[];
  keyOf: (row: R) => Key;
  /** What a row is called where it is selected. */
  nameOf?: (row: R) => string;
  how?: Arrangement;
  onArrange?: (to: Partial<Arrangement>) => void;
  /** In which group a row is, where the server groups. */
  groupOf?: (row: R) => string;
  /** How many a group has, where not all rows have come. */
  groupCount?: (group: string) => number;
  /** Further rows are asked for when the last of these come into sight. */
  pages?: Paged;
  selected?: readonly Key[];
  onSelect?: (keys: readonly Key[]) => void;
  arrows?: "rows" | "cells";
  /** Scrolls by itself however wide it is. */
  framed?: boolean;
  rowClass?: (row: R) => string;
}) {
  const columns = useMemo(() => all.filter((c) => !c.hidden), [all]);
  const group = all.find((c) => c.key === how?.group);
  const entries = entriesOf(rows, groupOf ?? (group?.value && ((r) => wordsOf(group, r))), groupCount);
  const drawn = useDrawn(entries.length, columns.length, framed);
  const last = drawn.items.at(-1)?.index ?? 0;
  const { hasNextPage = false, isFetching = false, fetchNextPage } = pages ?? {};
  useEffect(() => {
    if (drawn.measure && hasNextPage && !isFetching && last >= entries.length - 20) fetchNextPage?.();
  }, [drawn.measure, hasNextPage, isFetching, last, entries.length, fetchNextPage]);
  const chosen = new Set(selected);
  const select = useSteady((key: Key, on: boolean) =>
    onSelect?.(on ? [...chosen, key] : [...chosen].filter((other) => other !== key)),
  );
  const across = columns.length + (onSelect ? 1 : 0);
  const gap = (height: number) =>
    height > 0 && (
      <tr>
        <td colSpan={across} style={{ height }} />
      </tr>
    );
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: only passes arrow keys on to the controls inside
    <div
      ref={drawn.frame}
      className={`relative bg-leaf ${drawn.wide ? "max-h-[85dvh] overflow-auto print:max-h-none" : "overflow-x-clip"}`}
      onKeyDown={arrows === "rows" ? alongRows : alongCells}
    >
      <table className="w-full border-collapse text-left" aria-label={label}>
        <thead className="sticky top-0 z-20 border-b-2 border-line bg-wall shadow-[0_2px_0_var(--line)]">
          <tr>
            {onSelect && (
              <SelectCell
                head
                label={`Select all ${label} shown`}
                checked={rows.length > 0 && rows.every((r) => chosen.has(keyOf(r)))}
                onChange={(on) => onSelect(on ? rows.map(keyOf) : [])}
              />
            )}
            {columns.map((c) => (
              <HeadCell key={c.key} column={c} how={how} onArrange={onArrange} />
            ))}
          </tr>
        </thead>
        <tbody ref={drawn.body}>
          {gap(drawn.above)}
          {drawn.items.map(({ index }) => {
            const e = entries[index];
            if (!e) return null;
            if (!("row" in e))
              return (
                <tr key={`group ${e.group}`} data-index={index} ref={drawn.measure}>
                  <th scope="rowgroup" colSpan={across} className="border-b-2 border-line bg-wall px-3 pt-3 pb-1">
                    {e.group} <span className="font-normal text-dim">{e.count}</span>
                  </th>
                </tr>
              );
            const key = keyOf(e.row);
            return (
              <TableRow
                key={key}
                index={index}
                measure={drawn.measure}
                row={e.row}
                id={key}
                columns={columns}
                className={rowClass?.(e.row)}
                name={nameOf?.(e.row) ?? String(key)}
                selected={chosen.has(key)}
                onSelect={onSelect && select}
              />
            );
          })}
          {gap(drawn.below)}
        </tbody>
      </table>
    </div>
  );
}

function wordsOf<R>(column: Column<R>, row: R): string {
  const value = String(column.value?.(row) ?? "");
  return column.words?.(value) ?? (value || "not recorded");
}
