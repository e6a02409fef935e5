import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState, useSyncExternalStore } from "react";
import { ApiError, api, messageOf, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { useSession } from "../../ui/session";
import { setWaiting, waitingOf, watchOutbox, withWaiting } from "./outbox";
import { keepDraft } from "./stepDraft";

/** How often what waits is tried again, ms. */
const AGAIN = 4_000;

/** An order with what was ticked on this device without a connection, which is sent in its
 * order as soon as there is one. What the server refuses is a draft in its step again. */
export function useOutbox(order: Schemas["Order"]) {
  const session = useSession();
  const client = useQueryClient();
  const waiting = useSyncExternalStore(watchOutbox, () => waitingOf(order.id));
  const [refused, setRefused] = useState("");
  const sending = useRef(false);
  const { id } = order;
  const flush = useCallback(async () => {
    if (sending.current) return;
    sending.current = true;
    try {
      for (let first = waitingOf(id)[0]; first; first = waitingOf(id)[0]) {
        const now = client.getQueryData<Schemas["Order"]>(keys.order(id));
        const step = now?.stepList.find((s) => s.key === first?.step);
        if (!step) return;
        if (step.doneAt || step.skippedWhy) {
          setWaiting(id, waitingOf(id).slice(1)); // another page of this device has sent it
          continue;
        }
        const { data, note, why } = first;
        const after = await unwrap(
          api.POST("/api/work/{id}/steps/{step}", {
            params: { path: { id, step: first.step } },
            body: { version: step.version, data, note, do: first.do, why },
          }),
        );
        setRefused("");
        setWaiting(id, waitingOf(id).slice(1));
        client.setQueryData(keys.order(id), after);
      }
    } catch (error) {
      if (error instanceof ApiError && (error.status === 0 || error.status >= 500)) return; // still away
      const list = waitingOf(id);
      for (const w of list) keepDraft(id, w.step, { data: w.data, note: w.note });
      setWaiting(id, []);
      setRefused(
        `${list[0]?.title ?? "A step"} was not taken: ${messageOf(error)} What you typed in it and after it is still there.`,
      );
      await client.invalidateQueries({ queryKey: keys.order(id) });
    } finally {
      sending.current = false;
    }
  }, [client, id]);
  useEffect(() => {
    if (waiting.length === 0) return;
    flush();
    addEventListener("online", flush);
    const timer = setInterval(flush, AGAIN);
    return () => {
      removeEventListener("online", flush);
      clearInterval(timer);
    };
  }, [flush, waiting.length]);
  return { shown: withWaiting(order, waiting, session.name), waiting, refused };
}
