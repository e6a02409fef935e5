import type { Schemas } from "../../api/client";

/** The page on which a piece of planned work is done. */
export function workLink(w: Pick<Schemas["ShownWork"], "order" | "fault" | "machineId" | "task">): string {
  if (w.order) return `/work/${w.order}`;
  if (w.fault) return `/faults?machine=${w.machineId}`;
  return w.task === "protection-test" ? `/machine/${w.machineId}?calibration=protection` : `/machine/${w.machineId}`;
}
