import type { Schemas } from "../../api/client";
import { SumHelp } from "../../ui/bench/SumHelp";
import { Button, TextInput } from "../../ui/form";
import { SensorHelp } from "../../ui/readings/SensorHelp";

/** Where the answer is given: a tap for yes or no, a choice, or a line to type. */
export function AnswerFields({
  q,
  draft,
  busy,
  onDraft,
  onAnswer,
}: {
  q: Schemas["AskedQuestion"];
  draft: string;
  busy: boolean;
  onDraft: (value: string) => void;
  onAnswer: (value: string) => void;
}) {
  const choices = q.kind === "yes/no" ? ["yes", "no"] : q.choices;
  if (choices.length > 0)
    return (
      <>
        {q.help === "sensor" && <SensorHelp choose={onDraft} />}
        <fieldset className="grid gap-3 sm:grid-cols-2" aria-label={q.label}>
          {choices.map((c) => (
            <Button
              key={c}
              main={draft === c}
              aria-pressed={draft === c}
              className="min-h-16 text-2xl"
              disabled={busy}
              onClick={() => (q.kind === "yes/no" ? onAnswer(c) : onDraft(c))}
            >
              {c}
            </Button>
          ))}
        </fieldset>
      </>
    );
  return (
    <>
      {q.help === "heater resistance" && (
        <SumHelp
          sum="heater-ohms"
          place={`inspect-${q.machineId}-${q.key}`}
          takes={["watts"]}
          use={([w]) => onDraft(w ?? "")}
        />
      )}
      <TextInput
        aria-label={q.label}
        value={draft}
        onChange={onDraft}
        inputMode={q.kind === "number" ? "decimal" : "text"}
        autoComplete="off"
        spellCheck={false}
        className="min-h-16 font-mono text-4xl"
        onKeyDown={(e) => {
          if (e.key === "Enter" && draft.trim()) onAnswer(draft);
        }}
      />
    </>
  );
}
