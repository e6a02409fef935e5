import type { PointerEvent } from "react";
import { type Frame, placeOf } from "./frame";
import type { Item } from "./items";

/** A booking or a piece of work as it is drawn. Bookings are outlined, work is filled; what is pinned, cannot
 * take place, or waits for an answer has a mark of its own. */
export function Bar({
  frame,
  item,
  moved,
  onOpen,
  onPointerDown,
}: {
  frame: Frame;
  item: Item;
  moved: boolean;
  onOpen: () => void;
  onPointerDown: (e: PointerEvent<HTMLButtonElement>) => void;
}) {
  const left = placeOf(frame, item.from);
  const width = placeOf(frame, item.to) - left;
  if (width <= 0) return null;
  const { booking, work } = item;
  const tone = work
    ? "border-accent bg-accent text-on-accent"
    : booking?.clash
      ? "border-look bg-look-wash text-ink"
      : "border-ink bg-leaf text-ink";
  const mark = work?.pinned ? "■ " : booking?.clash ? "▲ " : booking?.offer ? "? " : "";
  return (
    <button
      type="button"
      data-bar={item.key}
      aria-label={item.words}
      title={item.words}
      onClick={onOpen}
      onPointerDown={onPointerDown}
      className={`absolute inset-y-0.5 touch-none overflow-hidden border-2 px-0.5 text-left text-sm leading-tight whitespace-nowrap ${tone} ${moved ? "opacity-50" : ""} ${item.movable ? "cursor-grab" : ""}`}
      style={{ left: `${100 * left}%`, width: `max(10px, ${100 * width}%)` }}
    >
      {mark}
      {item.label}
    </button>
  );
}
