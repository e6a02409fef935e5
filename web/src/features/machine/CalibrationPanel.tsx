import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { SumHelp } from "../../ui/bench/SumHelp";
import { useDraft } from "../../ui/draft";
import { Button, Cautions, Check, Fault, Field, Select } from "../../ui/form";
import { Panel } from "../../ui/Panel";
import { StepForm, stepValues } from "../../ui/StepForm";
import { useMayWork } from "../../ui/session";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { CalibrationHistory } from "./CalibrationHistory";
import { DisagreementView } from "./DisagreementView";

type Data = Schemas["Data"];
type Calibration = Schemas["CalibrationSheet"];

/** Records one calibration or proof outside a work order, of one of its subjects. */
export function CalibrationPanel({
  sheet,
  list,
  onClose,
}: {
  sheet: Schemas["Sheet"];
  /** The calibration of each subject that was picked; the first is shown. */
  list: readonly Calibration[];
  onClose: () => void;
}) {
  const mayWork = useMayWork();
  const together = list.length > 1 && list[0]?.together === true;
  const [subject, setSubject] = useState(together ? "" : (list[0]?.subject ?? ""));
  const c = list.find((x) => x.subject === subject) ?? list[0];
  if (!c) return null;
  return (
    <Panel open onOpenChange={onClose} title={subject === "" ? c.title : c.name}>
      {list.length > 1 && (
        <Field label="Of which" htmlFor="calibration-subject">
          <Select
            id="calibration-subject"
            value={subject}
            onChange={setSubject}
            options={[
              ...(together ? ([["", "All of them"]] as const) : []),
              ...list.map((x) => [x.subject, x.name] as const),
            ]}
          />
        </Field>
      )}
      <p className="my-3 text-lg">{c.step.do}</p>
      {c.invalid && (
        <p className="mb-3 border-l-4 border-look bg-look-wash px-3 py-2">
          <b>{c.invalid.remedy}</b>: {c.invalid.reason}
        </p>
      )}
      {c.disagreement && <DisagreementView d={c.disagreement} />}
      <details className="mb-3 text-dim">
        <summary className="min-h-10 cursor-pointer">
          Depends on {c.dependsOn.length} {c.dependsOn.length === 1 ? "part" : "parts"} of this machine
        </summary>
        {c.dependsOn.join("; ") || "Nothing that this machine has."}
      </details>
      {c.method && c.method !== c.step.do && <p className="mb-3 text-dim">Last time: {c.method}.</p>}
      {c.proof && <ProofOf proof={c.proof} />}
      <Cautions list={c.step.cautions} />
      {!mayWork || sheet.openOrder ? (
        <>
          {mayWork && sheet.openOrder && (
            <p className="mt-4">
              Work order {sheet.openOrder.id} is open on this machine; record it at its step there.
            </p>
          )}
          <CalibrationHistory machineId={sheet.id} kind={c.kind} subject={c.subject} />
        </>
      ) : (
        <RecordForm
          key={subject}
          sheet={sheet}
          calibration={c}
          subject={together ? subject : c.subject}
          onDone={onClose}
        />
      )}
    </Panel>
  );
}

function ProofOf({ proof: p }: { proof: Schemas["Proof"] }) {
  return (
    <p className="mb-3 text-dim">
      {p.alarm && `The alarm said \u201C${p.alarm}\u201D. `}
      {p.build && `Build: ${p.build}. `}
      {p.configuration && `Configuration: ${p.configuration}.`}
    </p>
  );
}

/** Takes another machine's value as a start of the loop, or of a value that then has to be measured. */
function startOf(step: Calibration["step"], start: (data: Data) => void) {
  if (step.form === "z-offset" && !step.endstop)
    return (s: Schemas["SisterCalibrated"]) => start({ startOffset: s.number === undefined ? "" : String(s.number) });
  if (step.form === "calibration" && !step.parts?.length)
    return (s: Schemas["SisterCalibrated"]) => start({ value: s.value, from: s.machine, measured: false });
  return undefined;
}

function RecordForm({
  sheet,
  calibration: c,
  subject,
  onDone,
}: {
  sheet: Schemas["Sheet"];
  calibration: Calibration;
  subject: string;
  onDone: () => void;
}) {
  const again = c.invalid?.remedy === "enter again";
  const [data, setData, clear] = useDraft<Data>(`calibration-${sheet.id}-${c.kind}-${subject}`, c.again ?? {});
  const { write, busy, fault, asks } = useWrite();
  return (
    <form
      className="mt-4 space-y-4"
      onSubmit={(e) => {
        e.preventDefault();
        write(
          () =>
            unwrap(
              api.POST("/api/machines/{id}/calibrations", {
                params: { path: { id: sheet.id } },
                body: { kind: c.kind, subject, data },
              }),
            ),
          () => {
            clear();
            toast(`${subject === "" ? c.title : c.name} recorded`);
            onDone();
          },
        );
      }}
    >
      {c.step.sum && (
        <SumHelp
          sum={c.step.sum}
          given={c.step.given}
          place={`machine-${sheet.id}-${c.step.key}`}
          takes={c.step.takes}
          use={(values, unit) => setData({ ...data, ...stepValues(c.step, values, unit) })}
        />
      )}
      <StepForm step={c.step} data={data} onChange={setData} family={sheet.family} idPrefix="calibration" />
      <Fault text={fault} />
      {(asks || data.sure) && (
        <Check
          label="The value is right: record it"
          checked={data.sure ?? false}
          onChange={(sure) => setData({ ...data, sure })}
        />
      )}
      {data.from && (
        <Check
          label={`Measured on this machine: the value of ${data.from} was a start alone`}
          checked={data.measured ?? false}
          onChange={(measured) => setData({ ...data, measured })}
        />
      )}
      <Button type="submit" main disabled={busy}>
        {again ? "Entered again" : "Record"}
      </Button>
      <CalibrationHistory
        machineId={sheet.id}
        kind={c.kind}
        subject={c.subject}
        onStart={startOf(c.step, (start) => setData({ ...data, ...start }))}
      />
    </form>
  );
}
