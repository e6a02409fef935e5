import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { GradeMark, State } from "../../ui/badges";
import { showMonth } from "../../ui/dates";

const tones: Record<string, "good" | "look" | "bad"> = {
  proven: "good",
  "not proven": "bad",
  "protection proven": "good",
  "protection not proven": "bad",
  "attended only": "look",
  "out of use": "bad",
  "danger reported": "bad",
};

export function AnswerCell({ cell, column }: { cell?: Schemas["Cell"]; column: Schemas["Column"] }) {
  if (!cell) return null;
  if (column.key.startsWith("machine."))
    return (
      <div className="compact:flex compact:max-w-90 compact:flex-wrap compact:gap-x-3">
        {cell.text.split("; ").map((part) => (
          <Field key={part} text={part} marked={column.key === "machine.state"} />
        ))}
      </div>
    );
  const told = cell.text ? `${cell.grade}${cell.since ? `, ${showMonth(cell.since)}` : ""}` : "unknown";
  return (
    <div className="compact:flex compact:items-center compact:gap-x-1.5" title={told}>
      <div className={`compact:whitespace-nowrap ${cell.text ? (cell.conflict ? "text-look" : "") : "text-dim"}`}>
        {cell.conflict && "▲ "}
        {whole(cell.text) || "unknown"}
      </div>
      <div className="flex gap-x-2 text-sm whitespace-nowrap text-dim">
        <GradeMark grade={cell.grade} word={Boolean(cell.text)} terse />
        {cell.since && <span className="compact:sr-only">{showMonth(cell.since)}</span>}
      </div>
    </div>
  );
}

/** Dates are not broken at their hyphens. */
export function whole(text: string) {
  return text.replace(/(\d{4})-(\d\d)-(\d\d)/g, "$1\u2011$2\u2011$3");
}

/** A field of the machine as a whole: a state with its mark, an order with its link. */
function Field({ text, marked }: { text: string; marked: boolean }) {
  const order = /\border (\d+)$/.exec(text);
  const tone = tones[text] ?? (marked && text ? "look" : undefined);
  const shown = tone ? (
    <span className="whitespace-nowrap">
      <State tone={tone}>{text}</State>
    </span>
  ) : (
    whole(text)
  );
  return order ? (
    <Link
      to={`/work/${order[1]}`}
      className="inline-flex min-h-10 items-center underline underline-offset-4 compact:min-h-0"
    >
      {shown}
    </Link>
  ) : (
    <div>{shown}</div>
  );
}
