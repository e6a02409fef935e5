import type { MouseEvent } from "react";
import type { Schemas } from "../../api/client";
import { answerWords, VerdictSign } from "../../ui/badges";

/** A verdict: a way to its reasons, or what is picked to order. */
export function MatrixCell({
  kit,
  row,
  answer,
  lean,
  head,
  faint,
  picked,
  onToggle,
  onFollow,
}: {
  kit: Schemas["MatrixKit"];
  row: Schemas["MatrixMachine"];
  answer: Schemas["Counted"]["answer"];
  lean?: string;
  head: number;
  faint: boolean;
  /** Undefined while nothing is picked. */
  picked?: boolean;
  onToggle: () => void;
  /** Follows the link within the page: one handler for thousands of cells. */
  onFollow: (e: MouseEvent<HTMLAnchorElement>) => void;
}) {
  const mark = <VerdictSign answer={answer} lean={lean} />;
  const title = `${row.name}: ${kit.name}, ${answerWords(answer, lean)}${head ? `, head ${head}` : ""}`;
  const dimmed = faint ? "opacity-40" : "";
  if (picked !== undefined && answer !== "does not fit")
    return (
      <label
        className={`mx-auto flex size-11 cursor-pointer flex-col items-center justify-center ${dimmed}`}
        title={title}
      >
        {mark}
        <input
          data-cell
          type="checkbox"
          className="size-4 accent-accent"
          aria-label={`${kit.name} for ${row.name}`}
          checked={picked}
          onChange={onToggle}
        />
      </label>
    );
  return (
    <a
      data-cell
      href={`/ask/${kit.key}/${row.id}`}
      onClick={onFollow}
      title={title}
      aria-label={title}
      className={`relative mx-auto grid size-11 place-items-center ${dimmed}`}
    >
      {mark}
      {head > 0 && (
        <span aria-hidden className="absolute right-0 bottom-0 font-mono text-xs text-dim">
          {head}
        </span>
      )}
    </a>
  );
}
