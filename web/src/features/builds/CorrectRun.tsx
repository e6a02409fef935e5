import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { DayInput } from "../../ui/DayInput";
import { showDay } from "../../ui/dates";
import { Button, Fault, Field } from "../../ui/form";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { type Chosen, Which } from "./WhichBuild";

export type Run = Schemas["RunOnRecord"];

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
  const [which, setWhich] = useState<Chosen>({
    build: run.buildId ? String(run.buildId) : "",
    grade: run.grade === "unknown" ? "observed" : run.grade,
    from: "",
  });
  const [to, setTo] = useState("");
  const { write, busy, fault } = useWrite();
  return (
    <Panel open onOpenChange={onClose} title="Identify or correct">
      <p className="mb-3 text-dim">
        {run.name || "Nothing is known of it"}, {showDay(run.from)} to {run.to ? showDay(run.to) : "now"}. The record
        was wrong or incomplete; the machine is as it was, so nothing becomes invalid.
      </p>
      <form
        className="space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          write(
            () =>
              unwrap(
                api.PUT("/api/machines/{id}/runs/{run}", {
                  params: { path: { id, run: run.id } },
                  body: {
                    build: Number(which.build) || undefined,
                    grade: which.grade as "observed",
                    from: which.from || run.from,
                    to: to || run.to,
                  },
                }),
              ),
            () => {
              toast("Saved");
              onClose();
            },
          );
        }}
      >
        <div className="grid gap-3 sm:grid-cols-2">
          <Which value={which} onChange={setWhich} builds={builds} />
          {run.to && (
            <Field label="To" htmlFor="run-to" hint={`${showDay(run.to)} when left empty`}>
              <DayInput id="run-to" value={to} onChange={setTo} />
            </Field>
          )}
        </div>
        <Fault text={fault} />
        <Button type="submit" main disabled={busy}>
          Save
        </Button>
      </form>
    </Panel>
  );
}
