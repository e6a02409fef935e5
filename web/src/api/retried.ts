import { useEffect } from "react";
import { ApiError } from "./client";

/** How often what waits is tried again, ms. */
const AGAIN = 4_000;

/** Tries again while something waits, and at once when the connection is back. */
export function useRetried(waits: boolean, send: () => void) {
  useEffect(() => {
    if (!waits) return;
    send();
    addEventListener("online", send);
    const timer = setInterval(send, AGAIN);
    return () => {
      removeEventListener("online", send);
      clearInterval(timer);
    };
  }, [waits, send]);
}

/** Whether a write was not taken for now, and is tried again as it is: there was no answer, the
 * database was away, or the session has ended and its person has to sign in first. */
export function notNow(error: unknown): boolean {
  return error instanceof ApiError && (error.status === 0 || error.status === 401 || error.status >= 500);
}
