import { api, type Schemas, unwrap } from "../../api/client";
import { Cautions } from "../../ui/form";
import { CheckField, DayField, TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import type { Row } from "./MachineName";
import { TaskOrder } from "./TaskOrder";

/** Records a task as done on one machine; what was renewed asks for its calibrations again. */
export function DonePanel({ row, task, onClose }: { row: Row; task?: Schemas["Task"]; onClose: () => void }) {
  const form = useKeptForm(`done-${row.machineId}-${row.task}`, {
    note: "",
    day: "",
    renewed: task?.always ?? false,
  });
  const { control } = form;
  const undo = useWrite();
  const where = { params: { path: { id: row.machineId } } };
  return (
    <Panel open onOpenChange={onClose} title={`${row.title}: ${row.machine}`}>
      <p className="mb-3 text-lg">{task?.how}</p>
      <Cautions list={task?.cautions} />
      <SendForm
        form={form}
        className="mt-4 space-y-4"
        send={({ note, day, renewed }) =>
          unwrap(
            api.POST("/api/machines/{id}/done", {
              ...where,
              body: { task: row.task, note, day, renewed: task?.renews ? renewed : undefined },
            }),
          )
        }
        onSent={() => {
          toast(`${row.title} on ${row.machine}: done, the counter starts again`, () =>
            undo.write(() => unwrap(api.POST("/api/machines/{id}/undo-done", { ...where, body: { task: row.task } }))),
          );
          onClose();
        }}
        button="Record as done"
      >
        {task?.renews && (
          <CheckField
            control={control}
            name="renewed"
            label="A new part went in, or it was adjusted: what depends on it is measured again"
          />
        )}
        <TextField control={control} name="note" label="Note" />
        <DayField control={control} name="day" label="Day" hint="Today when left empty" />
      </SendForm>
      {task?.renews && <TaskOrder machineId={row.machineId} task={task} />}
    </Panel>
  );
}
