import type { Schemas } from "../../api/client";
import { showDay } from "../../ui/dates";
import { weekStart } from "../../ui/weekStart";

/** The date beside how late a task is: one that the record shows, or a forecast with its range. */
export function dateOf(d: Schemas["Due"]): string {
  if (!d.on) return "";
  if (!d.from) return showDay(d.on);
  return `${showDay(d.on)}; 8 times in 10 between ${showDay(d.from)} and ${d.to ? showDay(d.to) : "a day not in sight"}`;
}

/** The day on which the week of a task starts, ISO 8601; empty where it has no date. */
export function weekOf(d: Schemas["Due"]): string {
  if (!d.on) return "";
  const day = new Date(`${d.on.slice(0, 10)}T00:00:00Z`);
  day.setUTCDate(day.getUTCDate() - ((day.getUTCDay() - weekStart() + 7) % 7));
  return day.toISOString().slice(0, 10);
}
