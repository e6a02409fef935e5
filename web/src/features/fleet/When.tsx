import { DayInput } from "../../ui/DayInput";
import type { Question } from "../../ui/fleet/question";
import { Field, Select } from "../../ui/form";

/** Now, as of a day, or at any time of a period. */
export function When({ question, onChange }: { question: Question; onChange: (q: Question) => void }) {
  const kind = question.at !== undefined ? "day" : question.from !== undefined ? "period" : "now";
  const day = (key: "at" | "from" | "to", label: string) => (
    <Field label={label} htmlFor={`when-${key}`}>
      <DayInput id={`when-${key}`} value={question[key] ?? ""} onChange={(v) => onChange({ ...question, [key]: v })} />
    </Field>
  );
  return (
    <fieldset className="border-2 border-line bg-leaf px-4 py-3">
      <legend className="px-1 font-semibold">When</legend>
      <Select
        aria-label="When"
        value={kind}
        onChange={(k) => {
          const { at, from, to, ...rest } = question;
          onChange(k === "day" ? { ...rest, at: "" } : k === "period" ? { ...rest, from: "", to: "" } : rest);
        }}
        options={[
          ["now", "as it is now"],
          ["day", "as the record stood on a day"],
          ["period", "at any time of a period"],
        ]}
      />
      <div className="mt-3 grid gap-3 sm:grid-cols-2">
        {kind === "day" && day("at", "Day")}
        {kind === "period" && (
          <>
            {day("from", "From")}
            {day("to", "To")}
          </>
        )}
      </div>
    </fieldset>
  );
}
