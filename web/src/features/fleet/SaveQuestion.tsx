import { api, type Schemas, unwrap } from "../../api/client";
import type { Question } from "../../ui/fleet/question";
import { Button, Fault } from "../../ui/form";
import { TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { useMayWork } from "../../ui/session";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

/** Saves the question under a name, over the one it came from or as a new one. */
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
  const form = useKeptForm("save-question", { name: "" });
  const { write, busy, fault } = useWrite();
  if (!mayWork) return null;
  const save = (body: Schemas["SaveQuestionBody"]) => unwrap(api.POST("/api/questions", { body }));
  const saved = (made: Schemas["Created"], name: string) => {
    toast(`Saved as “${name}”`);
    onSaved(made.id);
  };
  return (
    <div className="border-2 border-line bg-leaf px-4 py-3">
      <SendForm
        form={form}
        className="flex flex-wrap items-end gap-2"
        send={({ name }) => save({ name, question })}
        onSent={(made, { name }) => saved(made, name)}
        button="Save"
        tone="plain"
        disabled={!form.watch("name").trim()}
      >
        <div className="min-w-40 flex-1">
          <TextField control={form.control} name="name" label="Save this question as" />
        </div>
      </SendForm>
      {chosen && (
        <div className="mt-2 flex flex-wrap gap-2">
          <Button
            disabled={busy}
            onClick={() =>
              write(
                () => save({ id: chosen.id, version: chosen.version, name: chosen.name, question }),
                (made) => saved(made, chosen.name),
              )
            }
          >
            Save over “{chosen.name}”
          </Button>
          <Button
            danger
            disabled={busy}
            onClick={() =>
              write(
                () => unwrap(api.POST("/api/questions/{id}/delete", { params: { path: { id: chosen.id } } })),
                () => {
                  toast(`“${chosen.name}” is deleted`, () =>
                    write(
                      () => save({ name: chosen.name, question: chosen.question }),
                      (made) => saved(made, chosen.name),
                    ),
                  );
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
    </div>
  );
}
