import { api, type Schemas, unwrap } from "../../api/client";
import { Cautions } from "../../ui/form";
import { DayField, RadioField, TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { AlsoOn } from "./AlsoOn";
import type { Row } from "./MachineName";
import { NewParts } from "./NewParts";
import { TaskOrder } from "./TaskOrder";

/** What became of the part: the same one as before, set anew, or another one. */
const became = [
  ["same", "The same part, looked over"],
  ["adjusted", "The same part, set anew: what depends on it is measured again"],
  ["new", "Another part went in: the old one is scrapped"],
] as const;

type Draft = {
  note: string;
  day: string;
  part: (typeof became)[number][0];
  spares: Record<string, number>;
  also: number[];
};

/** Records a task as done, with the parts that went in and what was done likewise. */
export function DonePanel({
  row,
  task,
  others,
  onClose,
}: {
  row: Row;
  task?: Schemas["Task"];
  /** Where the same task is due. */
  others: readonly Row[];
  onClose: () => void;
}) {
  const form = useKeptForm<Draft>(`done-${row.machineId}-${row.task}`, {
    note: "",
    day: "",
    part: task?.always ? "new" : "same",
    spares: {},
    also: [],
  });
  const { control } = form;
  const undo = useWrite();
  const where = { params: { path: { id: row.machineId } } };
  const part = form.watch("part");
  const also = form.watch("also");
  const spares = form.watch("spares");
  return (
    <Panel open onOpenChange={onClose} title={`${row.title}: ${row.machine}`}>
      <p className="mb-3 text-lg">{task?.how}</p>
      {task && task.tools.length > 0 && <p className="mb-3">Take with you: {task.tools.join(", ")}.</p>}
      <Cautions list={task?.cautions} />
      <SendForm
        form={form}
        className="mt-4 space-y-4"
        send={({ note, day, part, spares, also }) =>
          unwrap(
            api.POST("/api/machines/{id}/done", {
              ...where,
              body: {
                task: row.task,
                note,
                day,
                also,
                renewed: task?.renews ? part === "adjusted" : undefined,
                new: part === "new",
                spares: part === "new" && also.length === 0 ? spares : undefined,
              },
            }),
          )
        }
        onSent={(_, { part, also }) => {
          const on = also.length > 0 ? `${row.machine} and ${also.length} more` : row.machine;
          const back = () =>
            undo.write(async () => {
              for (const id of [row.machineId, ...also])
                await unwrap(
                  api.POST("/api/machines/{id}/undo-done", { params: { path: { id } }, body: { task: row.task } }),
                );
            });
          toast(`${row.title} on ${on}: done, the counter starts again`, part === "new" ? undefined : back);
          onClose();
        }}
        button="Record as done"
      >
        {task?.renews && <RadioField control={control} name="part" legend="What became of the part" options={became} />}
        {task?.renews && part === "new" && also.length === 0 && (
          <NewParts
            machine={row.machineId}
            kind={task.renews}
            spares={spares}
            onChange={(to) => form.setValue("spares", to)}
          />
        )}
        <AlsoOn rows={others} ids={also} onChange={(ids) => form.setValue("also", ids)} />
        <TextField control={control} name="note" label="Note" />
        <DayField control={control} name="day" label="Day" hint="Today when left empty" />
      </SendForm>
      {task?.renews && <TaskOrder machineId={row.machineId} task={task} />}
    </Panel>
  );
}
