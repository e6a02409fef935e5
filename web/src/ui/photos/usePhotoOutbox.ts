import { useCallback, useEffect, useSyncExternalStore } from "react";
import { useRetried } from "../../api/retried";
import { useSession } from "../session";
import { useRefresh } from "../write";
import { photos, readPhotos, sendPhotos, toSend } from "./outbox";

/** Sends photos that were taken without a connection, wherever in the program one is. */
export function usePhotoOutbox() {
  const refresh = useRefresh();
  const { account } = useSession();
  const open = useSyncExternalStore(photos.watch, () => photos.get().some((p) => toSend(p, account)));
  useEffect(() => {
    readPhotos().catch(() => undefined); // where nothing can be kept, nothing waits
  }, []);
  const send = useCallback(async () => {
    if (await sendPhotos(account)) refresh();
  }, [account, refresh]);
  useRetried(open, send);
}
