import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { Button, Fault, Field, TextArea } from "../../ui/form";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { Causes } from "./Causes";

export function CloseFault({
  fault: f,
  symptom,
  onClose,
}: {
  fault: Schemas["ReportedFault"];
  symptom?: Schemas["Symptom"];
  onClose: () => void;
}) {
  const [answer, setAnswer] = useState("");
  const { write, busy, fault } = useWrite();
  return (
    <Panel open onOpenChange={onClose} title={`${f.machine}: what was it?`}>
      <p className="mb-4 text-lg">{f.words}</p>
      {symptom && <Causes symptom={symptom} />}
      <form
        className="mt-4 space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          write(
            () =>
              unwrap(
                api.POST("/api/faults/{id}/close", {
                  params: { path: { id: f.id } },
                  body: { version: f.version, answer },
                }),
              ),
            () => {
              toast("Closed");
              onClose();
            },
          );
        }}
      >
        <Field label="What it was and what was done" htmlFor="fault-answer">
          <TextArea id="fault-answer" value={answer} onChange={setAnswer} required autoFocus />
        </Field>
        <Fault text={fault} />
        <Button type="submit" main disabled={busy}>
          Close the fault
        </Button>
      </form>
    </Panel>
  );
}
