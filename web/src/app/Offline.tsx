import { useSyncExternalStore } from "react";
import { away } from "../api/away";

function watch(changed: () => void) {
  addEventListener("online", changed);
  addEventListener("offline", changed);
  return () => {
    removeEventListener("online", changed);
    removeEventListener("offline", changed);
  };
}

/** Says so while this device has no connection. */
export function Offline() {
  const online = useSyncExternalStore(watch, () => navigator.onLine);
  const silent = useSyncExternalStore(away.watch, away.get);
  if (online && !silent) return null;
  return (
    <p role="status" className="border-b-2 border-look bg-look-wash px-4 py-2 font-semibold lg:px-8">
      ▲ No connection. What is shown may be old; what you type stays here and is saved when the connection is back.
    </p>
  );
}
