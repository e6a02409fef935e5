import { api, type Schemas, unwrap } from "../../api/client";
import { AreaField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { Causes } from "./Causes";

/** Closes a fault with what it was; the likely causes stand beside. */
export function CloseFault({
  fault: f,
  symptom,
  onClose,
}: {
  fault: Schemas["ReportedFault"];
  symptom?: Schemas["Symptom"];
  onClose: () => void;
}) {
  const form = useKeptForm(`close-fault-${f.id}`, { answer: "" });
  return (
    <Panel open onOpenChange={onClose} title={`${f.machine}: what was it?`}>
      <p className="mb-4 text-lg">{f.words}</p>
      {symptom && <Causes symptom={symptom} />}
      <SendForm
        form={form}
        className="mt-4 space-y-3"
        send={({ answer }) =>
          unwrap(
            api.POST("/api/faults/{id}/close", {
              params: { path: { id: f.id } },
              body: { version: f.version, answer },
            }),
          )
        }
        onSent={() => {
          toast("Closed");
          onClose();
        }}
        button="Close the fault"
      >
        <AreaField control={form.control} name="answer" label="What it was and what was done" required autoFocus />
      </SendForm>
    </Panel>
  );
}
