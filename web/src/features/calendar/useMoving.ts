import { type KeyboardEvent, type PointerEvent, type RefObject, useRef, useState } from "react";
import { isoOf, minutesBetween, showSpan } from "../../ui/clock";
import { type Frame, minutesOf, shifted } from "./frame";
import type { Item, Row } from "./items";

/** A step of the grid in minutes, as plans have it, and how far a pointer goes before it drags, px. */
const STEP = 15;
const SLACK = 5;

type Moving = { item: Item; row: number; minutes: number };

/** Moves bars: dragged with the pointer, or taken with M, moved with the arrow keys and set down with Enter. */
export function useMoving({
  frame,
  rows,
  body,
  onDrop,
}: {
  frame: Frame;
  rows: readonly Row[];
  body: RefObject<HTMLDivElement | null>;
  onDrop: (item: Item, row: number, from: string) => void;
}) {
  const [moving, setMoving] = useState<Moving>();
  const dragged = useRef(false);
  const from = moving ? isoOf(shifted(frame, moving.item.from, moving.minutes)) : "";
  const length = moving ? minutesBetween(moving.item.from, moving.item.to) : 0;
  const to = moving ? isoOf(ahead(from, length)) : "";

  function drop(m: Moving) {
    setMoving(undefined);
    const row = rows[m.row];
    if (row && (m.minutes !== 0 || row.id !== m.item.row))
      onDrop(m.item, row.id, isoOf(shifted(frame, m.item.from, m.minutes)));
  }

  function take(e: PointerEvent<HTMLButtonElement>, item: Item) {
    dragged.current = false;
    if (!item.movable || e.button !== 0) return;
    const bar = e.currentTarget;
    const start = { x: e.clientX, y: e.clientY };
    const wide = bar.parentElement?.clientWidth ?? 1;
    const own = rows.findIndex((r) => r.id === item.row);
    let now: Moving | undefined;
    const move = (m: globalThis.PointerEvent) => {
      if (!now && Math.hypot(m.clientX - start.x, m.clientY - start.y) < SLACK) return;
      dragged.current = true;
      const minutes = Math.round(minutesOf(frame, (m.clientX - start.x) / wide) / STEP) * STEP;
      const under = document
        .elementsFromPoint(m.clientX, m.clientY)
        .map((x) => x.closest<HTMLElement>("[data-row]"))
        .find((x) => x && body.current?.contains(x));
      now = { item, minutes, row: under ? Number(under.dataset.row) : own };
      setMoving(now);
    };
    const end = (how: "drop" | "leave") => () => {
      removeEventListener("pointermove", move);
      removeEventListener("pointerup", up);
      removeEventListener("pointercancel", cancel);
      if (now && how === "drop") drop(now);
      else setMoving(undefined);
    };
    const up = end("drop");
    const cancel = end("leave");
    addEventListener("pointermove", move);
    addEventListener("pointerup", up);
    addEventListener("pointercancel", cancel);
  }

  function keys(e: KeyboardEvent, items: readonly Item[]) {
    dragged.current = false;
    const bar = (e.target as HTMLElement).closest<HTMLElement>("[data-bar]");
    if (moving) {
      const step = e.shiftKey ? 4 * STEP : STEP;
      const next = {
        ArrowLeft: { ...moving, minutes: moving.minutes - step },
        ArrowRight: { ...moving, minutes: moving.minutes + step },
        ArrowUp: { ...moving, row: Math.max(0, moving.row - 1) },
        ArrowDown: { ...moving, row: Math.min(rows.length - 1, moving.row + 1) },
      }[e.key];
      if (next) setMoving(next);
      else if (e.key === "Enter") drop(moving);
      else if (e.key === "Escape") setMoving(undefined);
      else return;
      e.preventDefault();
      e.stopPropagation();
      return;
    }
    if (!bar) return;
    const item = items.find((x) => x.key === bar.dataset.bar);
    if (e.key.toLowerCase() === "m" && item?.movable && !bar.dataset.several && !e.ctrlKey && !e.metaKey) {
      setMoving({ item, minutes: 0, row: rows.findIndex((r) => r.id === item.row) });
    } else if (!walk(e.key, bar, body.current)) return;
    e.preventDefault();
    e.stopPropagation();
  }

  return {
    item: moving?.item,
    row: moving?.row ?? -1,
    from,
    to,
    says: moving
      ? `${moving.item.label}: ${showSpan(from, to)}, ${rows[moving.row]?.name}. Arrow keys move it, Enter sets it down, Esc leaves it.`
      : "",
    take,
    keys,
    /** Whether a press on a bar was the end of a drag. */
    wasDragged: () => dragged.current,
  };
}

function ahead(iso: string, minutes: number) {
  return { day: iso.slice(0, 10), minute: Number(iso.slice(11, 13)) * 60 + Number(iso.slice(14, 16)) + minutes };
}

/** Goes to the bar beside, above or below with the arrow keys; whether there was one. */
function walk(key: string, from: HTMLElement, body: HTMLElement | null): boolean {
  const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[key];
  if (!way || !body) return false;
  const here = from.getBoundingClientRect();
  const [x = 0, y = 0] = way;
  let best: HTMLElement | undefined;
  let least = Number.POSITIVE_INFINITY;
  for (const bar of body.querySelectorAll<HTMLElement>("[data-bar]")) {
    const at = bar.getBoundingClientRect();
    const dx = at.left - here.left;
    const dy = at.top - here.top;
    const along = x ? dx * x : dy * y;
    const across = Math.abs(x ? dy : dx);
    if (bar === from || along <= 1 || (x && across > 1)) continue;
    const distance = y ? along * 1000 + across : along;
    if (distance < least) [least, best] = [distance, bar];
  }
  best?.focus();
  return true;
}
