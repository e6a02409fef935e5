import { useEffect, useSyncExternalStore } from "react";
import { useRefresh } from "../write";
import { readPhotos, sendPhotos, waitingPhotos, watchPhotos } from "./outbox";

/** How often what waits is tried again, ms. */
const AGAIN = 4_000;

/** Sends photos that were taken without a connection, wherever in the program one is. */
export function usePhotoOutbox() {
  const refresh = useRefresh();
  const open = useSyncExternalStore(watchPhotos, () => waitingPhotos().filter((p) => !p.fault).length);
  useEffect(() => {
    readPhotos().catch(() => undefined); // where nothing can be kept, nothing waits
  }, []);
  useEffect(() => {
    if (open === 0) return;
    const send = async () => {
      if (await sendPhotos()) refresh();
    };
    addEventListener("online", send);
    const timer = setInterval(send, AGAIN);
    return () => {
      removeEventListener("online", send);
      clearInterval(timer);
    };
  }, [open, refresh]);
}
