import type { Schemas } from "../../api/client";
import { Button, Select, TextInput } from "../../ui/form";
import type { Found } from "./receiveDraft";

const grades = ["marked", "observed", "proven"] as const;

/** One trait: as advertised, or what was found instead. */
export function FoundRow({
  check: c,
  found: f,
  onChange,
}: {
  check: Schemas["DeliveryCheck"];
  found: Found;
  onChange: (found: Found) => void;
}) {
  const choose = (how: Found["how"]) => onChange({ ...f, how: f.how === how ? "" : how });
  const words = c.answer === "choice" ? c.choices : c.answer === "yes/no" ? ["yes", "no"] : undefined;
  const label = `${c.label.charAt(0).toUpperCase()}${c.label.slice(1)}${c.unit ? `, ${c.unit}` : ""}`;
  return (
    <div className="border-b border-rule py-2">
      <div className="flex flex-wrap items-center gap-2">
        <span className="mr-auto">
          {label}: {c.advertised ? <b>{c.advertised}</b> : <span className="text-dim">nothing said</span>}
        </span>
        {c.advertised && (
          <Button
            aria-pressed={f.how === "same"}
            aria-label={`${label}: as advertised`}
            className={f.how === "same" ? "border-good bg-good-wash" : ""}
            onClick={() => choose("same")}
          >
            As advertised
          </Button>
        )}
        <Button
          aria-pressed={f.how === "differs"}
          aria-label={`${label}: ${c.advertised ? "differs" : "found"}`}
          className={f.how === "differs" ? "border-bad bg-bad-wash" : ""}
          onClick={() => choose("differs")}
        >
          {c.advertised ? "Differs" : "Found"}
        </Button>
      </div>
      {f.how !== "" && (
        <div className="mt-2 grid gap-2 sm:grid-cols-2">
          {f.how === "differs" &&
            (words ? (
              <Select
                aria-label={`${label}, found`}
                required
                empty="Choose"
                options={words}
                value={f.value}
                onChange={(value) => onChange({ ...f, value })}
              />
            ) : (
              <TextInput
                aria-label={`${label}, found`}
                required
                maxLength={120}
                className="font-mono"
                value={f.value}
                onChange={(value) => onChange({ ...f, value })}
              />
            ))}
          <Select
            aria-label={`${label}, how sure`}
            options={c.hint ? ["marked"] : grades}
            value={c.hint ? "marked" : f.grade}
            onChange={(grade) => onChange({ ...f, grade: grade as Found["grade"] })}
          />
        </div>
      )}
    </div>
  );
}
