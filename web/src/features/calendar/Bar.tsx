import type { PointerEvent } from "react";
import { type Drawn, type Item, severalWords } from "./items";

/** Of the width a bar has to take so much that its label can be read in it. */
const LABELLED = 0.04;

/** A booking or a piece of work as it is drawn. Bookings are outlined, work is filled; what is pinned, cannot
 * take place, or waits for an answer has a mark of its own. Several that would lie over each other are one bar
 * with their number. */
export function Bar({
  bar,
  moved,
  onOpen,
  onPointerDown,
}: {
  bar: Drawn;
  moved: boolean;
  onOpen: () => void;
  onPointerDown: (e: PointerEvent<HTMLButtonElement>) => void;
}) {
  const { item, several } = bar;
  const words = several.length > 0 ? severalWords(several) : item.words;
  const look = several.find((x) => x.booking) ?? item;
  return (
    <button
      type="button"
      data-bar={item.key}
      data-several={several.length > 0 || undefined}
      aria-label={words}
      title={words}
      onClick={onOpen}
      onPointerDown={several.length > 0 ? undefined : onPointerDown}
      className={`absolute inset-y-0.5 touch-none overflow-hidden border-2 px-0.5 text-left text-sm leading-tight whitespace-nowrap ${toneOf(look)} ${moved ? "opacity-50" : ""} ${item.movable && several.length === 0 ? "cursor-grab" : ""}`}
      style={{ left: `${100 * bar.left}%`, width: `${100 * bar.width}%` }}
    >
      {several.length > 0 ? `${mark(look)}${several.length} ×` : mark(item)}
      {several.length === 0 && bar.width > LABELLED && item.label}
    </button>
  );
}

function toneOf({ work, booking }: Item): string {
  if (work) return "border-leaf bg-accent text-on-accent";
  return booking?.clash ? "border-look bg-look-wash text-ink" : "border-ink bg-leaf text-ink";
}

function mark({ work, booking }: Item): string {
  if (work) return work.pinned ? "■ " : "";
  if (booking?.clash) return "▲ ";
  return booking?.offer ? "? " : "";
}
