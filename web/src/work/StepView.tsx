import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { ApiError, api, type Schemas, unwrap } from "../api/client";
import { State } from "../ui/badges";
import { showDay } from "../ui/dates";
import { Button, Cautions, Check, Fault, type FaultText, Field, TextArea, TextInput } from "../ui/form";
import { faultOf } from "../ui/write";
import { settled } from "./OrderPage";
import { Photos } from "./Photos";
import { StepForm } from "./StepForm";

type Step = Schemas["OrderStep"];
type Data = Schemas["Data"];
type Do = Schemas["StepChange"]["do"];

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
      {step.lines && step.lines.length > 0 && (
        <ul className="my-3 border-l-4 border-line bg-wall px-4 py-2 font-mono text-lg">
          {step.lines.map((l) => (
            <li key={l}>{l}</li>
          ))}
        </ul>
      )}
      <fieldset disabled={!mayWork || done} className="mt-4 space-y-4">
        <StepForm step={step} family={order.family} data={s.data} onChange={s.setData} idPrefix={step.key} />
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
        <div className="mt-3 border-2 border-look bg-look-wash px-4 py-3">
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

/** What this device still holds of a step that the server has not got. */
function unsaved(place: string, step: Step): { data: Data; note: string; version: number; dirty: boolean } {
  const kept = localStorage.getItem(place);
  if (kept && !settled(step)) {
    try {
      return { ...(JSON.parse(kept) as { data: Data; note: string; version: number }), dirty: true };
    } catch {
      localStorage.removeItem(place);
    }
  }
  return { data: step.data, note: step.note, version: step.version, dirty: false };
}

/** A step's typed state: saved shortly after typing stops, never lost to a
 *  conflict. Saves go one after the other, so that each knows its version. */
function useStep(orderId: number, step: Step) {
  const client = useQueryClient();
  const place = `wardifex-step:${orderId}:${step.key}`;
  const [start] = useState(() => unsaved(place, step));
  const [data, setDataState] = useState<Data>(start.data);
  const [note, setNoteState] = useState(start.note);
  const [fault, setFault] = useState<FaultText>("");
  const [asks, setAsks] = useState(false);
  const [theirs, setTheirs] = useState<Step>();
  const [busy, setBusy] = useState(false);
  const [kept, setKept] = useState("");
  const typed = useRef({ data: start.data, note: start.note });
  const version = useRef(start.version);
  const dirty = useRef(start.dirty);
  const retry = useRef<ReturnType<typeof setTimeout>>(undefined);
  const line = useRef(Promise.resolve());

  // Another device went on with this step, and nothing is unsaved here: follow.
  useEffect(() => {
    if (step.version > version.current) {
      version.current = step.version;
      if (!dirty.current) {
        typed.current = { data: step.data, note: step.note };
        setDataState(step.data);
        setNoteState(step.note);
      }
    }
  }, [step]);

  const send = useCallback(
    (what: Do, why?: string) => {
      const run = async () => {
        if (what === "save" && !dirty.current) return;
        dirty.current = false;
        clearTimeout(retry.current);
        setKept("Saving what you typed …");
        try {
          const order = await unwrap(
            api.POST("/api/work/{id}/steps/{step}", {
              params: { path: { id: orderId, step: step.key } },
              body: { version: version.current, data: typed.current.data, note: typed.current.note, do: what, why },
            }),
          );
          const now = order.stepList.find((s) => s.key === step.key);
          if (now) version.current = now.version;
          if (what !== "save") {
            setFault("");
            setAsks(false);
          }
          setTheirs(undefined);
          setKept("Draft saved.");
          if (!dirty.current) localStorage.removeItem(place);
          client.setQueryData(["order", orderId], order);
          if (what !== "save") client.invalidateQueries({ predicate: (q) => q.queryKey[0] !== "order" });
        } catch (error) {
          dirty.current = true;
          setKept("Not saved yet.");
          setFault(faultOf(error));
          if (!(error instanceof ApiError)) return;
          setAsks(error.ask);
          if (error.status === 409) setTheirs(error.current as Step);
          // No answer, or the database was away: try again by itself.
          if (error.status === 0 || error.status === 503)
            retry.current = setTimeout(() => again.current("save"), 3_000);
        }
      };
      line.current = line.current.then(run);
      return line.current;
    },
    [client, orderId, step.key, place],
  );

  const again = useRef(send);
  again.current = send;

  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const changed = useCallback(() => {
    dirty.current = true;
    setKept("");
    // Kept on this device too until the server has it.
    localStorage.setItem(place, JSON.stringify({ ...typed.current, version: version.current }));
    clearTimeout(timer.current);
    timer.current = setTimeout(() => send("save"), 600);
  }, [send, place]);
  // Leaving the step or the page: what is typed goes out at once.
  useEffect(() => {
    if (dirty.current) send("save");
    const flush = () => {
      clearTimeout(timer.current);
      clearTimeout(retry.current);
      if (dirty.current) send("save");
    };
    addEventListener("pagehide", flush);
    return () => {
      removeEventListener("pagehide", flush);
      flush();
    };
  }, [send]);

  return {
    data,
    note,
    fault,
    asks,
    theirs,
    busy,
    kept,
    setData: (d: Data) => {
      typed.current = { ...typed.current, data: d };
      setDataState(d);
      changed();
    },
    setNote: (n: string) => {
      typed.current = { ...typed.current, note: n };
      setNoteState(n);
      changed();
    },
    act: async (what: Do, why?: string) => {
      clearTimeout(timer.current);
      setBusy(true);
      await send(what, why);
      setBusy(false);
    },
    takeTheirs: () => {
      if (!theirs) return;
      dirty.current = false;
      localStorage.removeItem(place);
      version.current = theirs.version;
      typed.current = { data: theirs.data, note: theirs.note };
      setDataState(theirs.data);
      setNoteState(theirs.note);
      setTheirs(undefined);
      setFault("");
      client.invalidateQueries();
    },
    keepMine: () => {
      if (!theirs) return;
      version.current = theirs.version;
      dirty.current = true;
      send("save");
    },
  };
}
