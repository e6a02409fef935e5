import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useRef, useState, useSyncExternalStore } from "react";
import { api, messageOf, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { notNow, useRetried } from "../../api/retried";
import { useSession } from "../../ui/session";
import { sentBy, setWaiting, type Waiting, waitingOf, watchOutbox, withWaiting } from "./outbox";
import { keepDraft } from "./stepDraft";

/** An order with what was ticked on this device without a connection, which is sent in its
 * order as soon as there is one, in the session of whoever did it. What the server refuses is a
 * draft in its step again. */
export function useOutbox(order: Schemas["Order"]) {
  const { account } = useSession();
  const client = useQueryClient();
  const waiting = useSyncExternalStore(watchOutbox, () => waitingOf(order.id));
  const [refused, setRefused] = useState("");
  const sending = useRef(false);
  const { id } = order;
  const flush = useCallback(async () => {
    if (sending.current) return;
    sending.current = true;
    try {
      const next = () => waitingOf(id).find((w) => sentBy(w, account));
      const sent = (w: Waiting) =>
        setWaiting(
          id,
          waitingOf(id).filter((x) => x.step !== w.step),
        );
      for (let first = next(); first; first = next()) {
        const now = client.getQueryData<Schemas["Order"]>(keys.order(id));
        const step = now?.stepList.find((s) => s.key === first?.step);
        if (!step) return;
        if (step.doneAt || step.skippedWhy) {
          sent(first); // another page of this device has sent it
          continue;
        }
        const { data, note, why, at } = first;
        const after = await unwrap(
          api.POST("/api/work/{id}/steps/{step}", {
            params: { path: { id, step: first.step } },
            // The version that was ticked: what a colleague undid meanwhile stays undone.
            body: { version: first.version ?? step.version, data, note, do: first.do, why, at },
          }),
        );
        setRefused("");
        sent(first);
        client.setQueryData(keys.order(id), after);
      }
    } catch (error) {
      if (notNow(error)) return;
      const list = waitingOf(id).filter((w) => sentBy(w, account));
      for (const w of list) keepDraft(id, w.step, { data: w.data, note: w.note });
      setWaiting(
        id,
        waitingOf(id).filter((w) => !sentBy(w, account)),
      );
      setRefused(
        `${list[0]?.title ?? "A step"} was not taken: ${messageOf(error)} What you typed in it and after it is still there.`,
      );
      await client.invalidateQueries({ queryKey: keys.order(id) });
    } finally {
      sending.current = false;
    }
  }, [client, id, account]);
  const own = waiting.filter((w) => sentBy(w, account)).length;
  useRetried(own > 0, flush);
  const others = [...new Set(waiting.filter((w) => !sentBy(w, account)).map((w) => w.by))];
  return { shown: withWaiting(order, waiting), own, others, refused };
}
