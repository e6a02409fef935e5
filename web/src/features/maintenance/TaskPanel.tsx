import { useQuery } from "@tanstack/react-query";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { Button, Check, Fault } from "../../ui/form";
import { AreaField, CheckField, NumberField, SelectField, TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useEditForm } from "../../ui/forms/useEditForm";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { Conditions } from "./Conditions";
import { OwnSteps } from "./OwnSteps";
import { eventWords } from "./taskWords";

type Task = Schemas["ShopTask"];

const begun: Task = {
  key: "",
  title: "",
  how: "",
  kind: "",
  when: [],
  after: [],
  tools: [],
  cautions: [],
  risk: "spoils prints",
  version: 0,
  ships: false,
};

const lines = (text: string) =>
  text
    .split("\n")
    .map((l) => l.trim())
    .filter(Boolean);

/** Writes a maintenance task as the shop's own. */
export function TaskPanel({
  task = begun,
  book,
  onClose,
}: {
  task?: Task;
  book: Schemas["TaskBook"];
  onClose: () => void;
}) {
  const { version, ships, tools, cautions, ...rest } = task;
  const isNew = task.key === "";
  const form = useEditForm(`task-${task.key}`, version, {
    ...rest,
    always: task.always ?? false,
    cold: task.cold ?? false,
    pause: task.pause ?? false,
    off: task.off ?? false,
    tools: tools.join("\n"),
    cautions: cautions.join("\n"),
  });
  const { control } = form;
  const reset = useWrite();
  const kinds = useKinds();
  const key = form
    .watch("title")
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-|-$/g, "")
    .slice(0, 40);
  const protection = task.key === "protection-test";
  return (
    <Panel open onOpenChange={onClose} title={isNew ? "New maintenance task" : task.title}>
      <SendForm
        form={form}
        className="space-y-4"
        send={async ({ tools, cautions, ...typed }) => {
          const body = {
            task: { ...typed, key: task.key || key, tools: lines(tools), cautions: lines(cautions) },
            version: form.version,
          };
          await unwrap(api.PUT("/api/tasks/{key}", { params: { path: { key: body.task.key } }, body }));
          form.clear();
        }}
        onSent={(_, { title }) => {
          toast(`${title}: saved`);
          onClose();
        }}
        button="Save"
      >
        <TextField control={control} name="title" label="Task" required maxLength={80} />
        <AreaField control={control} name="how" label="How it is done" maxLength={2000} />
        {!protection && (
          <div className="grid gap-3 sm:grid-cols-2">
            <SelectField
              control={control}
              name="kind"
              label="What it is about"
              options={kinds}
              empty="Choose"
              required
            />
            <SelectField control={control} name="renews" label="New part that goes in" options={kinds} empty="None" />
          </div>
        )}
        {form.watch("renews") && (
          <CheckField control={control} name="always" label="The task is the change: a new part goes in every time" />
        )}
        <fieldset className="grid grid-cols-2 gap-3 sm:grid-cols-4">
          <legend className="font-bold">Due after, whichever comes first</legend>
          {!protection && (
            <>
              <NumberField control={control} name="hours" label="Print hours, h" />
              <NumberField control={control} name="filament" label="Filament, m" />
              <NumberField control={control} name="prints" label="Prints" />
            </>
          )}
          <NumberField control={control} name="days" label="Days" />
        </fieldset>
        {!protection && (
          <>
            <fieldset>
              <legend className="font-bold">And at once after</legend>
              {book.events.map((e) => (
                <Check
                  key={e}
                  label={eventWords[e].replace("after ", "")}
                  checked={form.watch("after").includes(e)}
                  onChange={(on) =>
                    form.setValue(
                      "after",
                      book.events.filter((x) => (x === e ? on : form.getValues("after").includes(x))),
                    )
                  }
                />
              ))}
            </fieldset>
            <Conditions list={form.watch("when")} onChange={(when) => form.setValue("when", when)} />
          </>
        )}
        <div className="grid gap-3 sm:grid-cols-3">
          <NumberField control={control} name="minutes" label="Usually takes, min" />
          <TextField
            control={control}
            name="skill"
            label="Skill it needs"
            hint="Anybody when left empty"
            maxLength={60}
          />
          <SelectField
            control={control}
            name="risk"
            label="If it is not done"
            options={book.risks.map((r) => [r, r] as const)}
          />
        </div>
        <CheckField control={control} name="cold" label="The machine is cold for it" />
        <CheckField
          control={control}
          name="pause"
          label="May be left over the end of a shift; the machine stays locked out meanwhile"
        />
        <div className="grid gap-3 sm:grid-cols-2">
          <AreaField control={control} name="tools" label="Tools" hint="One a line" />
          <AreaField control={control} name="cautions" label="Cautions" hint="One a line" />
        </div>
        {!protection && (
          <OwnSteps list={form.watch("steps") ?? []} onChange={(steps) => form.setValue("steps", steps)} />
        )}
        {!protection && <CheckField control={control} name="off" label="Not done in this shop" />}
      </SendForm>
      {version > 0 && (
        <div className="mt-6 border-t-2 border-line pt-4">
          <Button
            disabled={reset.busy}
            onClick={() =>
              reset.write(
                () =>
                  unwrap(api.DELETE("/api/tasks/{key}", { params: { path: { key: task.key }, query: { version } } })),
                () => {
                  form.clear();
                  onClose();
                },
              )
            }
          >
            {ships ? "Back to how it ships" : "Remove this task"}
          </Button>
          <Fault text={reset.fault} />
        </div>
      )}
    </Panel>
  );
}

/** The kinds of part that the catalogue has, for a list. */
function useKinds() {
  const catalogue = useQuery({ queryKey: keys.catalogue(), queryFn: () => unwrap(api.GET("/api/catalogue")) });
  return (catalogue.data?.catalogue.kinds ?? []).map((k) => [k.key, k.label] as const);
}
