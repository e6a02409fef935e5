import type { Schemas } from "../../api/client";
import { showDay } from "../../ui/dates";

/** The date beside how late a task is: one that the record shows, or a forecast with its range. */
export function dateOf(d: Schemas["Due"]): string {
  if (!d.on) return "";
  if (!d.from) return showDay(d.on);
  return `${showDay(d.on)}; 8 times in 10 between ${showDay(d.from)} and ${d.to ? showDay(d.to) : "a day not in sight"}`;
}
