import type { Schemas } from "../../api/client";
import { clockOf, dayAfter, daysBetween } from "../../ui/clock";

/** What of each day is drawn: its days side by side, each from an hour to another. */
export type Frame = { from: string; days: number; first: number; last: number };

const HOUR = 60;

/** The frame of some days: from the earliest to the latest hour in which something is. */
export function frameOf(calendar: Schemas["Calendar"], spans: readonly { from: string; to: string }[]): Frame {
  let first = 24;
  let last = 0;
  for (const s of spans) {
    const [a, b] = [clockOf(s.from), clockOf(s.to)];
    const longer = a.day !== b.day && b.minute > 0;
    first = Math.min(first, longer ? 0 : Math.floor(a.minute / HOUR));
    last = Math.max(last, longer || b.minute === 0 ? 24 : Math.ceil(b.minute / HOUR));
  }
  if (first >= last) [first, last] = [8, 20];
  return { from: calendar.from, days: calendar.days, first, last };
}

/** Where a moment stands, from 0 to 1 over the whole width; the hours that are not drawn have none. */
export function placeOf(frame: Frame, iso: string): number {
  const { day, minute } = clockOf(iso);
  const shown = (frame.last - frame.first) * HOUR;
  const within = Math.min(shown, Math.max(0, minute - frame.first * HOUR));
  const days = daysBetween(frame.from, day);
  return Math.min(1, Math.max(0, (days + within / shown) / frame.days));
}

/** The moment so many minutes of drawn time after another: over the end of a day it goes on with the next. */
export function shifted(frame: Frame, iso: string, minutes: number): { day: string; minute: number } {
  const { day, minute } = clockOf(iso);
  const shown = (frame.last - frame.first) * HOUR;
  const at = daysBetween(frame.from, day) * shown + (minute - frame.first * HOUR) + minutes;
  const days = Math.floor(at / shown);
  return { day: dayAfter(frame.from, days), minute: frame.first * HOUR + (at - days * shown) };
}

/** How many minutes of drawn time a share of the width is. */
export function minutesOf(frame: Frame, share: number): number {
  return share * frame.days * (frame.last - frame.first) * HOUR;
}
