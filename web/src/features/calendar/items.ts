import type { Schemas } from "../../api/client";
import { showSpan, showWeekday } from "../../ui/clock";
import { type Frame, placeOf } from "./frame";

/** A row of the calendar: a machine, or somebody who works. */
export type Row = { id: number; name: string; note: string; group: string };

/** Something that is drawn in a row. */
export type Item = {
  key: string;
  row: number;
  from: string;
  to: string;
  /** As it stands in the bar, and as it is read out. */
  label: string;
  words: string;
  booking?: Schemas["ShownBooking"];
  work?: Schemas["ShownWork"];
  movable: boolean;
};

export type Side = "machines" | "people";

export function rowsOf(c: Schemas["Calendar"], side: Side): Row[] {
  return side === "people"
    ? c.people.map((p) => ({ id: p.account, name: p.name, note: p.skills.join(", "), group: "" }))
    : c.machines
        .toSorted((a, b) => a.bay.localeCompare(b.bay) || a.name.localeCompare(b.name))
        .map((m) => ({ id: m.id, name: m.name, note: m.state === "free" ? "" : m.state, group: m.bay }));
}

export function itemsOf(c: Schemas["Calendar"], side: Side, mayWork: boolean): Item[] {
  const out: Item[] = c.work.map((w) => ({
    key: w.key,
    row: side === "people" ? w.account : w.machineId,
    from: w.from,
    to: w.to,
    label: side === "people" ? `${w.machine}: ${w.title}` : w.title,
    words: `${w.pinned ? "pinned work" : "work"}, ${w.title} on ${w.machine}, ${w.person}, ${showSpan(w.from, w.to)}`,
    work: w,
    movable: mayWork,
  }));
  if (side === "people") return out;
  for (const b of c.bookings)
    out.push({
      key: `booking ${b.id} ${b.machineId} ${b.from}`,
      row: b.machineId,
      from: b.from,
      to: b.to,
      label: b.who ? `${b.who}: ${b.what}` : "booked",
      words: `${b.clash ? `booking that cannot take place, ${b.clash}, ` : "booking, "}${b.who || "somebody"}${b.what && `, ${b.what}`}, ${b.machine}, ${showSpan(b.from, b.to)}`,
      booking: b,
      movable: b.id > 0 && (b.mine || mayWork),
    });
  return out.toSorted((a, b) => a.from.localeCompare(b.from));
}

/** What is shaded: when the shop is closed, or somebody does not work. */
export function openOf(c: Schemas["Calendar"], side: Side, row: Row): readonly { from: string; to: string }[] {
  return side === "people" ? (c.people.find((p) => p.account === row.id)?.works ?? []) : c.open;
}

/** What is drawn as one bar: an item, or several that would lie over each other. */
export type Drawn = { item: Item; left: number; width: number; several: readonly Item[] };

/** Of the width a bar takes at least so much that a finger finds it. */
const NARROWEST = 0.026;

/** Draws a row's items: those that would lie over each other become one bar that names them all. */
export function drawn(frame: Frame, items: readonly Item[]): Drawn[] {
  const out: (Drawn & { items: Item[] })[] = [];
  for (const item of items) {
    const left = placeOf(frame, item.from);
    const end = placeOf(frame, item.to);
    if (end <= left) continue; // in hours that are not drawn
    const last = out.at(-1);
    if (last && left < last.left + last.width - 1e-9) {
      last.items.push(item);
      last.width = Math.max(last.width, end - last.left);
    } else out.push({ item, left, width: Math.max(end - left, NARROWEST), several: [], items: [item] });
  }
  return out.map(({ items: of, ...d }) => ({ ...d, several: of.length > 1 ? of : [] }));
}

/** What a bar of several says when it is read out. */
export function severalWords(of: readonly Item[]): string {
  return `${of.length} on ${showWeekday(of[0]?.from.slice(0, 10) ?? "")}: ${of.map((x) => x.words).join("; ")}`;
}
