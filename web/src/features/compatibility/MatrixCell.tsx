import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { answerWords, VerdictMark } from "../../ui/badges";

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
}) {
  const mark = <VerdictMark answer={answer} lean={lean} word={false} />;
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
    <Link
      data-cell
      to={`/ask/${kit.key}/${row.id}`}
      title={title}
      className={`relative mx-auto grid size-11 place-items-center ${dimmed}`}
    >
      {mark}
      {head > 0 && (
        <span aria-hidden className="absolute right-0 bottom-0 font-mono text-xs text-dim">
          {head}
        </span>
      )}
    </Link>
  );
}
