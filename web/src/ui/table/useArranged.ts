import {
  type ColumnDef,
  getCoreRowModel,
  getFilteredRowModel,
  getSortedRowModel,
  useReactTable,
} from "@tanstack/react-table";
import { useMemo } from "react";
import type { Arrangement, Column } from "./column";

const collator = new Intl.Collator("en", { numeric: true, sensitivity: "base" });

function inOrder(a: unknown, b: unknown): number {
  return typeof a === "number" && typeof b === "number" ? a - b : collator.compare(String(a), String(b));
}

/** The rows of a list that has come whole, filtered and sorted; those of a group together. */
export function useArranged<R>(rows: readonly R[], columns: readonly Column<R>[], how: Arrangement): readonly R[] {
  const defs = useMemo(
    () =>
      columns
        .filter((c) => c.value)
        .map(
          (c): ColumnDef<R, string | number | undefined> => ({
            id: c.key,
            accessorFn: (r) => c.value?.(r),
            sortingFn: (a, b, id) => inOrder(a.getValue(id), b.getValue(id)),
            sortUndefined: "last",
            filterFn: (r, id, is) => String(r.getValue(id) ?? "") === is,
          }),
        ),
    [columns],
  );
  const known = (id: string) => defs.some((d) => d.id === id);
  const table = useReactTable({
    data: rows as R[],
    columns: defs,
    state: {
      sorting: [
        ...(known(how.group) ? [{ id: how.group, desc: false }] : []),
        ...(known(how.sort) ? [{ id: how.sort, desc: how.down }] : []),
      ],
      columnFilters: Object.entries(how.only)
        .filter(([id, value]) => value && known(id))
        .map(([id, value]) => ({ id, value })),
    },
    autoResetAll: false, // the state is the address's; a reset would ask for another render, without end
    getCoreRowModel: getCoreRowModel(),
    getFilteredRowModel: getFilteredRowModel(),
    getSortedRowModel: getSortedRowModel(),
  });
  return table.getRowModel().rows.map((r) => r.original);
}
