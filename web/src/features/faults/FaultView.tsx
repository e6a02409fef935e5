import { useState } from "react";
import { Link } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { State } from "../../ui/badges";
import { showDay } from "../../ui/dates";
import { Button, Fault } from "../../ui/form";
import { useGo } from "../../ui/go";
import { PhotoStrip } from "../../ui/photos/PhotoStrip";
import { useMayWork } from "../../ui/session";
import { useWrite } from "../../ui/write";
import { Ahead } from "./Ahead";
import { Causes } from "./Causes";
import { CloseFault } from "./CloseFault";

export function FaultView({
  fault: f,
  symptoms,
}: {
  fault: Schemas["ReportedFault"];
  symptoms: readonly Schemas["Symptom"][];
}) {
  const mayWork = useMayWork();
  const [answering, setAnswering] = useState(false);
  const { write, busy, fault } = useWrite();
  const go = useGo();
  const symptom = symptoms.find((s) => s.key === f.symptom);
  return (
    <article>
      <div className="flex flex-wrap items-baseline justify-between gap-x-4">
        <h2 className="text-xl font-bold">
          <Link to={`/machine/${f.machineId}`} className="underline underline-offset-4">
            {f.machine}
          </Link>
          {symptom && <span className="font-normal">: {symptom.title.toLowerCase()}</span>}
        </h2>
        <State tone={f.closedAt ? "good" : f.takenBy ? "look" : "bad"}>
          {f.closedAt ? "closed" : f.takenBy ? "somebody is on it" : "open"}
        </State>
      </div>
      <p className="my-1 text-lg whitespace-pre-line">{f.words}</p>
      <p className="text-dim">
        {f.by}, {showDay(f.at)}
        {f.takenBy && !f.closedAt && ` · ${f.mine ? "you are" : `${f.takenBy} is`} on it`}
        {f.takenAt && !f.closedAt && ` since ${showDay(f.takenAt)}`}
      </p>
      <div className="mt-2">
        <PhotoStrip ids={f.photos} of="this fault" postTo={`/api/faults/${f.id}/photos`} />
      </div>
      {f.closedAt ? (
        <p className="mt-2 border-t border-rule pt-2">
          <b>{f.answer}</b>{" "}
          <span className="text-dim">
            {f.closedBy}, {showDay(f.closedAt)}
          </span>
          {mayWork && (
            <button
              type="button"
              className="ml-3 min-h-10 underline underline-offset-4"
              onClick={() =>
                write(() =>
                  unwrap(
                    api.POST("/api/faults/{id}/close", {
                      params: { path: { id: f.id } },
                      body: { version: f.version, answer: "" },
                    }),
                  ),
                )
              }
            >
              Open it again
            </button>
          )}
        </p>
      ) : (
        <>
          {symptom && (
            <details open className="mt-2">
              <summary className="min-h-11 cursor-pointer font-semibold">Usual causes and checks</summary>
              <Causes symptom={symptom} />
            </details>
          )}
          {mayWork && <Ahead fault={f} />}
          {mayWork && (
            <div className="mt-2 flex flex-wrap gap-2">
              <Button
                onClick={() =>
                  write(() =>
                    unwrap(
                      api.POST("/api/faults/{id}/take", {
                        params: { path: { id: f.id } },
                        body: { version: f.version, off: f.mine },
                      }),
                    ),
                  )
                }
              >
                {f.mine ? "I am no longer on it" : "I am on it"}
              </Button>
              <Button
                disabled={busy}
                onClick={() =>
                  write(
                    () => unwrap(api.POST("/api/work/repair", { body: { fault: f.id } })),
                    ({ id }) => go(`/work/${id}`),
                  )
                }
              >
                Open a work order
              </Button>
              <Button onClick={() => setAnswering(true)}>Close the fault</Button>
            </div>
          )}
        </>
      )}
      <Fault text={fault} />
      {answering && <CloseFault fault={f} symptom={symptom} onClose={() => setAnswering(false)} />}
    </article>
  );
}
