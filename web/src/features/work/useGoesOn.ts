import { useEffect } from "react";
import { loadBench } from "../../api/benchHere";
import type { Schemas } from "../../api/client";

/** How long the page has for itself before more is loaded, ms. */
const FIRST = 1_500;

/** Makes this device ready to go on with an open order without a connection: the sums of its
 * steps at once; over a reload too where the browser allows it, which is behind TLS or on this
 * computer. */
export function useGoesOn(order: Schemas["Order"]) {
  const { id } = order;
  const open = order.state === "open";
  const sums = order.stepList.some((s) => s.sum || s.form === "z-offset");
  useEffect(() => {
    if (!open) return;
    const timer = setTimeout(async () => {
      if (sums) await loadBench().catch(() => undefined); // tried again when a sum is asked for
      await keepPages(id).catch(() => undefined); // then a reload needs a connection
    }, FIRST);
    return () => clearTimeout(timer);
  }, [id, open, sums]);
}

async function keepPages(order: number) {
  if (!navigator.serviceWorker) return;
  await navigator.serviceWorker.register("/offline.js");
  const { active } = await navigator.serviceWorker.ready;
  const files = performance
    .getEntriesByType("resource")
    .map((e) => new URL(e.name))
    .filter((u) => u.origin === location.origin && u.pathname.startsWith("/assets/"))
    .map((u) => u.pathname);
  const answers = ["/api/session", "/api/bench", "/api/builds", `/api/work/${order}`];
  active?.postMessage({ files: [...new Set(files)], answers });
}
