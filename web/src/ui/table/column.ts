import type { ReactNode } from "react";

/** A column of a table. What it is sorted, filtered and grouped by is its value; a list that
 * the server arranges needs none. */
export type Column<R> = {
  key: string;
  label: string;
  /** What stands in the head instead of the label: the unit once, a count. */
  head?: ReactNode;
  cell?: (row: R) => ReactNode;
  value?: (row: R) => string | number | undefined;
  sort?: boolean;
  filter?: boolean;
  /** The values to filter by, where not all rows have come; those of the rows without it. */
  values?: readonly (readonly [string, string])[];
  group?: boolean;
  /** Words of a value where it is filtered or grouped by; the value itself without it. */
  words?: (value: string) => string;
  /** Not shown: only filtered or grouped by. */
  hidden?: boolean;
  /** The cell that names the row. */
  names?: boolean;
  /** Figures, ranged right. */
  figures?: boolean;
  className?: string;
  headClassName?: string;
};

/** How a table is arranged. */
export type Arrangement = { sort: string; down: boolean; group: string; only: Readonly<Record<string, string>> };
