import { useRef } from "react";
import { showWeekday } from "../../ui/clock";
import { Bar } from "./Bar";
import { type Frame, placeOf } from "./frame";
import { drawn, type Item, type Row } from "./items";
import { useMoving } from "./useMoving";

/** The calendar, drawn: a row each, time from left to right. Bars are moved with the pointer, or with M and the arrow keys. */
export function Grid({
  frame,
  rows,
  items,
  openOf,
  now,
  onOpen,
  onSeveral,
  onDrop,
  onEmpty,
}: {
  frame: Frame;
  rows: readonly Row[];
  items: readonly Item[];
  openOf: (row: Row) => readonly { from: string; to: string }[];
  now: string;
  onOpen: (item: Item) => void;
  /** Several that are drawn as one bar. */
  onSeveral: (items: readonly Item[]) => void;
  onDrop: (item: Item, row: number, from: string) => void;
  onEmpty?: (row: Row, day: string) => void;
}) {
  const body = useRef<HTMLDivElement>(null);
  const moving = useMoving({ frame, rows, body, onDrop });
  const days = Array.from({ length: frame.days }, (_, i) => dayOf(frame, i));
  const at = placeOf(frame, now);
  const grouped = rows.some((r) => r.group);
  return (
    <div className="overflow-x-auto bg-leaf">
      <div className={frame.days > 1 ? "min-w-[58rem]" : "min-w-[44rem]"}>
        <div className="grid grid-cols-[7rem_minmax(0,1fr)] sm:grid-cols-[12rem_minmax(0,1fr)] border-b-2 border-line">
          <span />
          <div className="relative flex">
            {days.map((d) => (
              <span key={d} className="flex-1 border-l-2 border-line px-1 font-semibold">
                {showWeekday(d)}
                {frame.days === 1 && <Hours frame={frame} />}
              </span>
            ))}
          </div>
        </div>
        {/* biome-ignore lint/a11y/noStaticElementInteractions: only passes keys on to the bars inside */}
        <div ref={body} onKeyDown={(e) => moving.keys(e, items)}>
          {rows.map((row, i) => (
            <div key={row.id}>
              {grouped && row.group !== rows[i - 1]?.group && (
                <p className="bg-wash px-2 font-bold">{row.group || "No bay"}</p>
              )}
              <div
                data-row={i}
                className={`grid grid-cols-[7rem_minmax(0,1fr)] sm:grid-cols-[12rem_minmax(0,1fr)] border-b border-rule ${grouped ? "h-11 compact:h-9" : "h-16"}`}
              >
                <p className="min-w-0 truncate px-2 py-1" title={row.note}>
                  <b>{row.name}</b>
                  {row.note && <span className="ml-2 text-sm text-dim">{row.note}</span>}
                </p>
                <div className="relative">
                  <Ground
                    frame={frame}
                    open={openOf(row)}
                    days={days}
                    onEmpty={onEmpty && ((day) => onEmpty(row, day))}
                    of={row.name}
                  />
                  {at > 0 && at < 1 && (
                    <span
                      aria-hidden="true"
                      className="absolute inset-y-0 w-0.5 bg-bad"
                      style={{ left: `${100 * at}%` }}
                    />
                  )}
                  {drawn(
                    frame,
                    items.filter((x) => x.row === row.id),
                  ).map((bar) => (
                    <Bar
                      key={bar.item.key}
                      bar={bar}
                      moved={moving.item?.key === bar.item.key}
                      onOpen={() => {
                        if (bar.several.length > 0) onSeveral(bar.several);
                        else if (!moving.wasDragged()) onOpen(bar.item);
                      }}
                      onPointerDown={(e) => moving.take(e, bar.item)}
                    />
                  ))}
                  {moving.item && moving.row === i && (
                    <span
                      aria-hidden="true"
                      className="absolute inset-y-0.5 border-2 border-dashed border-accent bg-wash"
                      style={{
                        left: `${100 * placeOf(frame, moving.from)}%`,
                        width: `${100 * Math.max(0.004, placeOf(frame, moving.to) - placeOf(frame, moving.from))}%`,
                      }}
                    />
                  )}
                </div>
              </div>
            </div>
          ))}
        </div>
      </div>
      <p role="status" className={moving.item ? "sticky left-0 bg-look-wash px-3 py-1 font-semibold" : "sr-only"}>
        {moving.says}
      </p>
    </div>
  );
}

function dayOf(frame: Frame, i: number): string {
  return new Date(Date.parse(`${frame.from}T00:00Z`) + i * 86_400_000).toISOString().slice(0, 10);
}

function Hours({ frame }: { frame: Frame }) {
  const hours = Array.from({ length: frame.last - frame.first }, (_, i) => frame.first + i);
  return (
    <span aria-hidden="true" className="relative block h-5 text-sm font-normal text-dim">
      {hours.map((h) => (
        <span key={h} className="absolute" style={{ left: `${(100 * (h - frame.first)) / hours.length}%` }}>
          {h}
        </span>
      ))}
    </span>
  );
}

/** The ground of a row: what is open is light; a day is pressed to book it. */
function Ground({
  frame,
  open,
  days,
  of,
  onEmpty,
}: {
  frame: Frame;
  open: readonly { from: string; to: string }[];
  days: readonly string[];
  of: string;
  onEmpty?: (day: string) => void;
}) {
  return (
    <span className="absolute inset-0 bg-rule/60">
      {open.map((s) => (
        <span
          key={s.from}
          aria-hidden="true"
          className="absolute inset-y-0 bg-leaf"
          style={{ left: `${100 * placeOf(frame, s.from)}%`, right: `${100 * (1 - placeOf(frame, s.to))}%` }}
        />
      ))}
      {days.map((day, i) => (
        <span
          key={day}
          className="absolute inset-y-0 border-l-2 border-line"
          style={{ left: `${(100 * i) / days.length}%`, width: `${100 / days.length}%` }}
        >
          {onEmpty && (
            <button
              type="button"
              tabIndex={-1}
              aria-label={`Book ${of} on ${showWeekday(day)}`}
              className="absolute inset-0 hover:bg-wash/60"
              onClick={() => onEmpty(day)}
            />
          )}
        </span>
      ))}
    </span>
  );
}
