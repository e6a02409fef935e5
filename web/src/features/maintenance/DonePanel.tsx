import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { DayInput } from "../../ui/DayInput";
import { Button, Cautions, Check, Fault, Field, TextInput } from "../../ui/form";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import type { Row } from "./MachineName";

export function DonePanel({ row, task, onClose }: { row: Row; task?: Schemas["Task"]; onClose: () => void }) {
  const [note, setNote] = useState("");
  const [day, setDay] = useState("");
  const [renewed, setRenewed] = useState(task?.always ?? false);
  const { write, busy, fault } = useWrite();
  const undo = useWrite();
  return (
    <Panel open onOpenChange={onClose} title={`${row.title}: ${row.machine}`}>
      <p className="mb-3 text-lg">{task?.how}</p>
      <Cautions list={task?.cautions} />
      <form
        className="mt-4 space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          write(
            () =>
              unwrap(
                api.POST("/api/machines/{id}/done", {
                  params: { path: { id: row.machineId } },
                  body: { task: row.task, note, day, renewed: task?.renews ? renewed : undefined },
                }),
              ),
            () => {
              toast(`${row.title} on ${row.machine}: done, the counter starts again`, () =>
                undo.write(() =>
                  unwrap(
                    api.POST("/api/machines/{id}/undo-done", {
                      params: { path: { id: row.machineId } },
                      body: { task: row.task },
                    }),
                  ),
                ),
              );
              onClose();
            },
          );
        }}
      >
        {task?.renews && (
          <Check
            label="A new part went in, or it was adjusted: what depends on it is measured again"
            checked={renewed}
            onChange={setRenewed}
          />
        )}
        <Field label="Note" htmlFor="done-note">
          <TextInput id="done-note" value={note} onChange={setNote} />
        </Field>
        <Field label="Day" htmlFor="done-day" hint="Today when left empty">
          <DayInput id="done-day" value={day} onChange={setDay} />
        </Field>
        <Fault text={fault} />
        <Button type="submit" main disabled={busy}>
          Record as done
        </Button>
      </form>
    </Panel>
  );
}
