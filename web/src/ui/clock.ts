/** A moment on the shop's clock, as the API writes and reads it: its day, and minutes after midnight. */
export type Clock = { day: string; minute: number };

const MINUTES_A_DAY = 24 * 60;

export function clockOf(iso: string): Clock {
  return { day: iso.slice(0, 10), minute: Number(iso.slice(11, 13)) * 60 + Number(iso.slice(14, 16)) };
}

/** "2026-11-27T14:00": on the shop's clock. */
export function isoOf({ day, minute }: Clock): string {
  const over = Math.floor(minute / MINUTES_A_DAY);
  return `${dayAfter(day, over)}T${showMinute(minute - over * MINUTES_A_DAY)}`;
}

/** "14:05" */
export function showMinute(minute: number): string {
  return `${String(Math.floor(minute / 60)).padStart(2, "0")}:${String(minute % 60).padStart(2, "0")}`;
}

/** The day so many days after another, ISO 8601. */
export function dayAfter(day: string, days: number): string {
  return new Date(Date.parse(`${day}T00:00Z`) + days * 86_400_000).toISOString().slice(0, 10);
}

export function daysBetween(from: string, to: string): number {
  return Math.round((Date.parse(`${to}T00:00Z`) - Date.parse(`${from}T00:00Z`)) / 86_400_000);
}

/** The minutes of the clock from one moment to another. */
export function minutesBetween(from: string, to: string): number {
  const [a, b] = [clockOf(from), clockOf(to)];
  return daysBetween(a.day, b.day) * MINUTES_A_DAY + b.minute - a.minute;
}

const weekdays = ["Sun", "Mon", "Tue", "Wed", "Thu", "Fri", "Sat"];
const months = ["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"];

/** "Fri 27 Nov" */
export function showWeekday(day: string): string {
  const [, month = 1, date = 1] = day.split("-").map(Number);
  return `${weekdays[new Date(`${day}T00:00Z`).getUTCDay()]} ${date} ${months[month - 1]}`;
}

/** "Fri 27 Nov, 14:00 to 16:00", with the other day where it ends on one. */
export function showSpan(from: string, to: string): string {
  const [a, b] = [clockOf(from), clockOf(to)];
  const end = a.day === b.day ? "" : `${showWeekday(b.day)}, `;
  return `${showWeekday(a.day)}, ${showMinute(a.minute)} to ${end}${showMinute(b.minute)}`;
}
