import { memo } from "react";
import type { Column } from "./column";
import { SelectCell } from "./SelectCell";

/** One row. While its table scrolls it is not drawn anew. */
export const TableRow = memo(Row) as typeof Row;

function Row<R>({
  row,
  id,
  index,
  measure,
  columns,
  className = "",
  name,
  selected,
  onSelect,
}: {
  row: R;
  id: string | number;
  index: number;
  measure?: (element: Element | null) => void;
  columns: readonly Column<R>[];
  className?: string;
  name: string;
  selected: boolean;
  onSelect?: (id: string | number, on: boolean) => void;
}) {
  return (
    <tr
      data-index={index}
      ref={measure}
      className={`border-b border-rule bg-leaf align-top hover:bg-wash compact:align-middle ${className}`}
    >
      {onSelect && <SelectCell label={`Select ${name}`} checked={selected} onChange={(on) => onSelect(id, on)} />}
      {columns.map((c) =>
        c.names ? (
          <th key={c.key} scope="row" className={`sticky left-0 z-10 bg-inherit font-normal ${c.className ?? "p-0"}`}>
            {c.cell?.(row)}
          </th>
        ) : (
          <td key={c.key} className={`${c.className ?? "px-3 py-1"} ${c.figures ? "text-right font-mono" : ""}`}>
            {c.cell?.(row)}
          </td>
        ),
      )}
    </tr>
  );
}
