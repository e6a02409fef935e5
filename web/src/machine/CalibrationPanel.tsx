import { useState } from "react";
import { api, type Schemas, take } from "../api/client";
import { useMayWork } from "../app/session";
import { Button, Cautions, Fault } from "../parts/form";
import { Panel } from "../parts/Panel";
import { say } from "../parts/toast";
import { useWrite } from "../parts/write";
import { StepForm } from "../work/StepForm";

type Data = Schemas["Data"];

/** Records one calibration or proof outside a work order. */
export function CalibrationPanel({
  sheet,
  calibration: c,
  onClose,
}: {
  sheet: Schemas["Sheet"];
  calibration: Schemas["CalibrationSheet"];
  onClose: () => void;
}) {
  const mayWork = useMayWork();
  const [data, setData] = useState<Data>({});
  const { write, busy, fault } = useWrite();
  return (
    <Panel open onOpenChange={onClose} title={c.title}>
      <p className="mb-3 text-lg">{c.step.do}</p>
      <p className="mb-3 text-dim">
        Depends on: {c.dependsOn.join(", ") || "nothing that this machine has"}.{" "}
        {c.method && c.method !== c.step.do && `Last time: ${c.method}.`}
      </p>
      <Cautions list={c.step.cautions} />
      {!mayWork ? null : sheet.openOrder ? (
        <p className="mt-4">Work order {sheet.openOrder.id} is open on this machine; record it at its step there.</p>
      ) : (
        <form
          className="mt-4 space-y-4"
          onSubmit={(e) => {
            e.preventDefault();
            write(
              () =>
                take(
                  api.POST("/api/machines/{id}/calibrations", {
                    params: { path: { id: sheet.id } },
                    body: { kind: c.kind, data },
                  }),
                ),
              () => {
                say(`${c.title} recorded`);
                onClose();
              },
            );
          }}
        >
          <StepForm step={c.step} data={data} onChange={setData} family={sheet.family} idPrefix="calibration" />
          <Fault text={fault} />
          <Button type="submit" main disabled={busy}>
            Record
          </Button>
        </form>
      )}
    </Panel>
  );
}
