import type { Schemas } from "../../api/client";
import { Button } from "../../ui/form";

/** What only a person can say of a file, each asked once. */
export function Questions({
  questions,
  busy,
  onAnswer,
}: {
  questions: readonly Schemas["FileQuestion"][];
  busy: boolean;
  onAnswer: (question: Schemas["FileQuestion"], value: string) => void;
}) {
  if (questions.length === 0) return null;
  return (
    <section aria-label="To be answered" className="border-l-4 border-look bg-look-wash px-4 py-3">
      <h2 className="text-xl font-bold">First, please say</h2>
      {questions.map((q) => (
        <div key={`${q.about}${q.column}`} className="mt-2">
          <p className="font-medium">{q.text}</p>
          <p className="mt-1 flex flex-wrap gap-2">
            {q.answers.map((a) => (
              <Button key={a.value} disabled={busy} onClick={() => onAnswer(q, a.value)}>
                {a.means}
              </Button>
            ))}
          </p>
        </div>
      ))}
    </section>
  );
}
