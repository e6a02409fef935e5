import { useState } from "react";
import type { Schemas } from "../../api/client";
import { State } from "../../ui/badges";
import { SumHelp } from "../../ui/bench/SumHelp";
import { DriftedValue } from "../../ui/DriftedValue";
import { showDay } from "../../ui/dates";
import { Button, Cautions, Check, Fault, Field, TextArea, TextInput } from "../../ui/form";
import { StepForm, stepValues } from "../../ui/StepForm";
import { Timer } from "../../ui/Timer";
import { AddStep } from "./AddStep";
import { Comparison } from "./Comparison";
import { FoundFields } from "./FoundFields";
import { LicensedFields } from "./LicensedFields";
import { Lines } from "./Lines";
import { OtherPart } from "./OtherPart";
import { Pasted } from "./Pasted";
import { Photos } from "./Photos";
import { StaleFiles } from "./StaleFiles";
import { settled } from "./StepList";
import { TransferList } from "./TransferList";
import { type Step, useStep } from "./useStep";

/** One step, one thing at a time. What is typed is kept on the server as it is
 *  typed, so that another device can go on. */
export function StepView({
  order,
  step,
  number,
  mayWork,
  current,
}: {
  order: Schemas["Order"];
  step: Step;
  number: number;
  mayWork: boolean;
  current: boolean;
}) {
  const s = useStep(order.id, step);
  const [skipping, setSkipping] = useState<string>();
  const done = settled(step);
  return (
    <section aria-labelledby="step" className="border-2 border-line bg-leaf px-5 py-4 print:border-0">
      <p className="text-dim">
        {step.phase}, step {number} of {order.steps}
      </p>
      <h2 id="step" className="text-3xl leading-tight font-extrabold">
        {step.title}
      </h2>
      <p className="mt-2 mb-3 max-w-3xl text-xl">{step.do}</p>
      <Cautions list={step.cautions} />
      {step.lines && step.lines.length > 0 && <Lines list={step.lines} />}
      <fieldset disabled={!mayWork || done} className="mt-4 space-y-4">
        {step.sum && (
          <SumHelp
            sum={step.sum}
            given={step.given}
            place={`order-${order.id}-${step.key}`}
            takes={step.takes}
            use={(values, unit) => s.setData({ ...s.data, ...stepValues(step, values, unit) })}
          />
        )}
        {step.found && step.found.length > 0 && <FoundFields fields={step.found} data={s.data} onChange={s.setData} />}
        {step.transfers && order.transfer && (
          <TransferList
            transfer={order.transfer}
            moved={s.data.moved ?? []}
            disabled={!mayWork || done}
            onMoved={(moved) => s.setData({ ...s.data, moved })}
          />
        )}
        {step.seconds ? (
          <Timer place={`${order.id}-${step.key}`} seconds={step.seconds} what={step.title.toLowerCase()} />
        ) : null}
        {step.licensed && <LicensedFields data={s.data} onChange={s.setData} idPrefix={step.key} />}
        <StepForm
          step={step}
          family={order.family}
          propose={order.proposedFile}
          data={s.data}
          onChange={s.setData}
          idPrefix={step.key}
        />
        <Field label="Note" htmlFor={`note-${step.key}`}>
          <TextArea
            id={`note-${step.key}`}
            rows={step.form === "note" ? 8 : 2}
            className={step.form === "note" ? "font-mono" : ""}
            value={s.note}
            onChange={s.setNote}
          />
        </Field>
      </fieldset>
      {step.key === "start-code" && <StaleFiles order={order.id} />}
      {["make-build", "re-enter", "start-code"].includes(step.key) &&
        order.disagree.map((v) => <DriftedValue key={`${v.title}${v.subject}`} value={v} />)}
      {order.pasted?.step === step.key && mayWork && (
        <Pasted key={order.pasted.stated.length} order={order.id} pasted={order.pasted} />
      )}
      {step.form === "measures" && <Comparison order={order} />}
      <Photos orderId={order.id} step={step} mayWork={mayWork && !done} />
      <Fault text={s.fault} />
      {(s.asks || s.data.sure) && !done && (
        <Check
          label="The value is right: record it"
          checked={s.data.sure ?? false}
          onChange={(sure) => s.setData({ ...s.data, sure })}
        />
      )}
      {s.theirs && (
        <div className="my-3 border-2 border-look bg-look-wash px-4 py-3">
          <p>
            There it now says: <b>{s.theirs.note || "no note"}</b>
            {settled(s.theirs) && `; the step is ${s.theirs.doneAt ? "done" : "skipped"} by ${s.theirs.doneBy}`}
          </p>
          <div className="mt-2 flex flex-wrap gap-2">
            <Button onClick={s.takeTheirs}>Take what is there</Button>
            {!settled(s.theirs) && <Button onClick={s.keepMine}>Keep what I typed</Button>}
          </div>
        </div>
      )}
      <div className="no-print mt-4 flex flex-wrap items-center gap-3">
        {mayWork && !done && (
          <>
            <Button main className="min-h-14 px-8 text-xl" disabled={s.busy} onClick={() => s.act("tick")}>
              {current ? "Done, next" : "Done"}
            </Button>
            {skipping === undefined ? (
              <Button onClick={() => setSkipping("")}>Skip …</Button>
            ) : (
              <form
                className="flex flex-wrap items-end gap-2"
                onSubmit={(e) => {
                  e.preventDefault();
                  s.act("skip", skipping);
                }}
              >
                <Field label="Why is it skipped?" htmlFor="skip-why">
                  <TextInput id="skip-why" value={skipping} onChange={setSkipping} autoFocus />
                </Field>
                <Button type="submit" disabled={s.busy || !skipping}>
                  Skip
                </Button>
              </form>
            )}
            <AddStep order={order} after={step} />
            {!order.back && <OtherPart order={order} />}
            <span role="status" className="text-sm text-dim">
              {s.kept}
            </span>
          </>
        )}
        {done && (
          <>
            <State tone={step.doneAt ? "good" : "look"}>
              {step.doneAt
                ? `done ${showDay(step.doneAt)} by ${step.doneBy}`
                : `skipped by ${step.doneBy}: ${step.skippedWhy}`}
            </State>
            {mayWork && (
              <Button disabled={s.busy} onClick={() => s.act("undo")}>
                Undo
              </Button>
            )}
          </>
        )}
      </div>
    </section>
  );
}
