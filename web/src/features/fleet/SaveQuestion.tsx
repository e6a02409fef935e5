import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import type { Question } from "../../ui/fleet/question";
import { Button, Fault, Field, TextInput } from "../../ui/form";
import { useMayWork } from "../../ui/session";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

/** Keeps the question under a name, over the one it came from or as a new one. */
export function SaveQuestion({
  question,
  chosen,
  onSaved,
}: {
  question: Question;
  chosen?: Schemas["SavedQuestion"];
  onSaved: (id: number) => void;
}) {
  const mayWork = useMayWork();
  const [name, setName] = useState("");
  const { write, busy, fault } = useWrite();
  if (!mayWork) return null;
  function save(body: Schemas["SaveQuestionBody"]) {
    write(
      () => unwrap(api.POST("/api/questions", { body })),
      (made) => {
        toast(`Kept as “${body.name}”`);
        setName("");
        onSaved(made.id);
      },
    );
  }
  return (
    <form
      className="border-2 border-line bg-leaf px-4 py-3"
      onSubmit={(e) => {
        e.preventDefault();
        save({ name, question });
      }}
    >
      <Field label="Save this question as" htmlFor="question-name">
        <div className="flex gap-2">
          <TextInput id="question-name" value={name} onChange={setName} />
          <Button type="submit" disabled={busy || !name.trim()}>
            Keep
          </Button>
        </div>
      </Field>
      {chosen && (
        <div className="mt-2 flex flex-wrap gap-2">
          <Button
            disabled={busy}
            onClick={() => save({ id: chosen.id, version: chosen.version, name: chosen.name, question })}
          >
            Keep over “{chosen.name}”
          </Button>
          <Button
            danger
            disabled={busy}
            onClick={() =>
              write(
                () => unwrap(api.POST("/api/questions/{id}/delete", { params: { path: { id: chosen.id } } })),
                () => {
                  toast(`“${chosen.name}” is forgotten`, () => save({ name: chosen.name, question: chosen.question }));
                  onSaved(0);
                },
              )
            }
          >
            Delete this question
          </Button>
        </div>
      )}
      <Fault text={fault} />
    </form>
  );
}
