import { useVirtualizer, useWindowVirtualizer } from "@tanstack/react-virtual";
import { type RefObject, useLayoutEffect, useRef, useState } from "react";

/** Up to this many lines, and cells, a table is on the page as a whole, and prints. */
const WHOLE = 120;
const WHOLE_CELLS = 2500;

/** About so many cells are drawn above and below what is on the screen. */
const SPARE_CELLS = 400;

/** Which lines of a long table are drawn. One that is wider than the page scrolls by itself,
 * both ways, so that its head stays in sight; another scrolls with the page. */
export function useDrawn(count: number, across: number, own: boolean) {
  const frame = useRef<HTMLDivElement>(null);
  const body = useRef<HTMLTableSectionElement>(null);
  const wide = useWider(frame, own);
  const [margin, setMargin] = useState(0);
  useLayoutEffect(() => {
    if (!body.current) return;
    const top = body.current.getBoundingClientRect().top;
    setMargin(wide ? top - (frame.current?.getBoundingClientRect().top ?? 0) : top + scrollY);
  }, [wide]);
  const many = count > WHOLE || count * across > WHOLE_CELLS;
  const shared = {
    count,
    estimateSize: () => (document.documentElement.dataset.density === "compact" ? 27 : 56),
    overscan: Math.max(2, Math.min(15, Math.round(SPARE_CELLS / across))),
    scrollMargin: margin,
  };
  const byPage = useWindowVirtualizer({ ...shared, enabled: many && !wide });
  const byFrame = useVirtualizer({ ...shared, enabled: many && wide, getScrollElement: () => frame.current });
  const drawn = wide ? byFrame : byPage;
  const items = many
    ? drawn.getVirtualItems()
    : Array.from({ length: count }, (_, index) => ({ index, start: 0, end: 0 }));
  return {
    frame,
    body,
    wide,
    items,
    measure: many ? drawn.measureElement : undefined,
    above: many ? (items[0]?.start ?? margin) - margin : 0,
    below: many ? drawn.getTotalSize() - ((items.at(-1)?.end ?? margin) - margin) : 0,
  };
}

/** Whether the table in a frame is wider than the frame. */
function useWider(frame: RefObject<HTMLDivElement | null>, own: boolean): boolean {
  const [wide, setWide] = useState(own);
  useLayoutEffect(() => {
    const box = frame.current;
    const table = box?.firstElementChild;
    if (own || !box || !table) return;
    const watch = new ResizeObserver(() => setWide(table.getBoundingClientRect().width > box.clientWidth + 1));
    watch.observe(box);
    watch.observe(table);
    return () => watch.disconnect();
  }, [own, frame]);
  return wide;
}
