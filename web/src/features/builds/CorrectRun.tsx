import { api, type Schemas, unwrap } from "../../api/client";
import { showDay } from "../../ui/dates";
import { DayField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { emptyRun, WhichBuild } from "./WhichBuild";

export type Run = Schemas["RunOnRecord"];

/** Says which build a run was, where the record was wrong or did not know. */
export function Correct({
  id,
  run,
  builds,
  onClose,
}: {
  id: number;
  run: Run;
  builds: readonly Schemas["BuildOnRecord"][];
  onClose: () => void;
}) {
  const form = useKeptForm(`run-${run.id}`, {
    ...emptyRun,
    build: run.buildId ? String(run.buildId) : "",
    grade: run.grade === "unknown" ? "observed" : run.grade,
  });
  return (
    <Panel open onOpenChange={onClose} title="Identify or correct">
      <p className="mb-3 text-dim">
        {run.name || "Nothing is known of it"}, {showDay(run.from)} to {run.to ? showDay(run.to) : "now"}. The record
        was wrong or incomplete; the machine is as it was, so nothing becomes invalid.
      </p>
      <SendForm
        form={form}
        send={({ build, grade, from, to }) =>
          unwrap(
            api.PUT("/api/machines/{id}/runs/{run}", {
              params: { path: { id, run: run.id } },
              body: {
                build: Number(build) || undefined,
                grade: grade as "observed",
                from: from || run.from,
                to: to || run.to,
              },
            }),
          )
        }
        onSent={() => {
          toast("Saved");
          onClose();
        }}
        button="Save"
      >
        <div className="grid gap-3 sm:grid-cols-2">
          <WhichBuild control={form.control} builds={builds} />
          {run.to && (
            <DayField control={form.control} name="to" label="To" hint={`${showDay(run.to)} when left empty`} />
          )}
        </div>
      </SendForm>
    </Panel>
  );
}
