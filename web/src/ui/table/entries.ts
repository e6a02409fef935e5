/** A line of a table: a row, or the head of a group of rows. */
export type Entry<R> = { group: string; count: number } | { row: R };

/** Rows with a head before each group; rows of a group follow one another. */
export function entriesOf<R>(
  rows: readonly R[],
  groupOf?: (row: R) => string,
  countOf?: (group: string) => number,
): Entry<R>[] {
  if (!groupOf) return rows.map((row) => ({ row }));
  const out: Entry<R>[] = [];
  let head: { group: string; count: number } | undefined;
  for (const row of rows) {
    const group = groupOf(row);
    if (head?.group !== group) {
      head = { group, count: countOf?.(group) ?? 0 };
      out.push(head);
    }
    if (!countOf) head.count++;
    out.push({ row });
  }
  return out;
}
