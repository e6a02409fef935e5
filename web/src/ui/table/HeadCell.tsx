import type { Arrangement, Column } from "./column";

/** The head of a column; a button where the column sorts. */
export function HeadCell<R>({
  column,
  how,
  onArrange,
}: {
  column: Column<R>;
  how?: Arrangement;
  onArrange?: (to: Partial<Arrangement>) => void;
}) {
  const { key, label, head = label || <span className="sr-only">What to do</span>, sort, figures } = column;
  const across = figures ? "justify-end text-right" : "text-left";
  const stays = column.names ? "sticky left-0 z-10 bg-wall" : "";
  if (!sort || !how)
    return (
      <th scope="col" className={`${column.headClassName ?? "px-3 py-1 align-middle font-bold"} ${across} ${stays}`}>
        {head}
      </th>
    );
  const by = how.sort === key;
  return (
    <th scope="col" aria-sort={by ? (how.down ? "descending" : "ascending") : "none"} className={`p-0 ${stays}`}>
      <button
        type="button"
        onClick={() => onArrange?.({ sort: key, down: by && !how.down })}
        className={`flex min-h-11 w-full items-center gap-1 px-3 font-bold hover:bg-wash ${across}`}
      >
        {head} <span aria-hidden="true">{by ? (how.down ? "▾" : "▴") : ""}</span>
      </button>
    </th>
  );
}
