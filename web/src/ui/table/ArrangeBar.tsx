import type { ReactNode } from "react";
import { Select } from "../form";
import type { Arrangement, Column } from "./column";

/** The filters of a table and what it is grouped by. */
export function ArrangeBar<R>({
  rows,
  columns,
  how,
  onArrange,
  children,
}: {
  /** All rows, before they are filtered: their values are offered. */
  rows: readonly R[];
  columns: readonly Column<R>[];
  how: Arrangement;
  onArrange: (to: Partial<Arrangement>) => void;
  children?: ReactNode;
}) {
  const groups = columns.filter((c) => c.group);
  return (
    <div className="no-print mb-3 flex flex-wrap items-center gap-3">
      {columns
        .filter((c) => c.filter)
        .map((c) => (
          <Select
            key={c.key}
            aria-label={c.label}
            className="max-w-64"
            value={how.only[c.key] ?? ""}
            onChange={(value) => onArrange({ only: { ...how.only, [c.key]: value } })}
            empty={`${c.label}: all`}
            options={c.values ?? valuesOf(rows, c).map((v) => [v, c.words?.(v) ?? v] as const)}
          />
        ))}
      {groups.length > 0 && (
        <Select
          aria-label="Group by"
          className="max-w-56"
          value={how.group}
          onChange={(group) => onArrange({ group })}
          empty="Not grouped"
          options={groups.map((c) => [c.key, `By ${c.label.toLowerCase()}`] as const)}
        />
      )}
      {children}
    </div>
  );
}

function valuesOf<R>(rows: readonly R[], column: Column<R>): readonly string[] {
  const values = new Set(rows.map((r) => String(column.value?.(r) ?? "")));
  values.delete("");
  return [...values].sort((a, b) => a.localeCompare(b, "en", { numeric: true }));
}
