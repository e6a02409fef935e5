import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { ApiError, api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import type { FaultText } from "../../ui/form";
import { useSession } from "../../ui/session";
import { toast } from "../../ui/toast";
import { faultOf, useRefresh } from "../../ui/write";
import { addWaiting, takeBack, waits } from "./outbox";
import { draftOfStep, draftPlace, keepDraft } from "./stepDraft";

export type Step = Schemas["OrderStep"];

type Data = Schemas["Data"];

type Do = Schemas["StepChange"]["do"];

/** A step's typed state: saved shortly after typing stops, never lost to a
 *  conflict. Saves go one after the other, so that each knows its version. */
export function useStep(orderId: number, step: Step) {
  const { account, name: by } = useSession();
  const client = useQueryClient();
  const refresh = useRefresh();
  const { key, title } = step;
  const place = draftPlace(orderId, key);
  const [start] = useState(() => draftOfStep(orderId, step));
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

  /** Without a connection the work goes on: it is sent in its order when there is one. */
  const wait = useCallback(
    (what: "tick" | "skip", why?: string) => {
      addWaiting(orderId, { ...typed.current, step: key, title, do: what, why, version: version.current, account, by });
    },
    [orderId, key, title, account, by],
  );

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
          if (now && !dirty.current && now.note !== typed.current.note) {
            typed.current = { ...typed.current, note: now.note };
            setNoteState(now.note);
            toast("Passwords and keys in the note are masked: they are not kept");
          }
          if (what !== "save") {
            setFault("");
            setAsks(false);
          }
          setTheirs(undefined);
          setKept("Draft saved.");
          if (!dirty.current) localStorage.removeItem(place);
          client.setQueryData(keys.order(orderId), order);
          if (what !== "save") refresh();
        } catch (error) {
          if ((what === "tick" || what === "skip") && error instanceof ApiError && error.status === 0) {
            wait(what, why);
            setFault("");
            setKept("");
            return;
          }
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
    [client, refresh, wait, orderId, step.key, place],
  );

  const again = useRef(send);
  again.current = send;

  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const changed = useCallback(() => {
    dirty.current = true;
    setKept("");
    // Kept on this device too until the server has it.
    keepDraft(orderId, step.key, typed.current, version.current);
    clearTimeout(timer.current);
    timer.current = setTimeout(() => send("save"), 600);
  }, [send, orderId, step.key]);
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
      if (what === "undo" && takeBack(orderId, step.key, account)) return;
      if ((what === "tick" || what === "skip") && waits(orderId, account)) {
        wait(what, why); // behind those that wait already
        return;
      }
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
      refresh();
    },
    keepMine: () => {
      if (!theirs) return;
      version.current = theirs.version;
      dirty.current = true;
      send("save");
    },
  };
}
