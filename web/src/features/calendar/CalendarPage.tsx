import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { BookingPanel } from "../../ui/bookings/BookingPanel";
import { BookPanel, type ToBook } from "../../ui/bookings/BookPanel";
import { dayAfter, isoOf, minutesBetween, showWeekday } from "../../ui/clock";
import { Button, Fault } from "../../ui/form";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { Panel } from "../../ui/Panel";
import { pin, pinnedWords, unpin } from "../../ui/plan/pinned";
import { WorkPanel } from "../../ui/plan/WorkPanel";
import { dayPages, SubPlaces } from "../../ui/SubPlaces";
import { useMayWork, useRole, useSession } from "../../ui/session";
import { Loaded } from "../../ui/states";
import { useInAddress } from "../../ui/table/useInAddress";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { CalendarFiles } from "./CalendarFiles";
import { frameOf } from "./frame";
import { Grid } from "./Grid";
import { type Item, itemsOf, openOf, rowsOf, type Side } from "./items";

/** The shop over some days, drawn: who has which machine, what is planned, who works. */
export default function CalendarPage() {
  const { today } = useSession();
  const mayWork = useMayWork();
  const day = today.slice(0, 10);
  const [view, setView] = useInAddress({ from: day, days: "7", side: "machines" });
  const [files, setFiles] = useState(false);
  const query = useQuery({
    queryKey: keys.calendar(view.from, view.days),
    queryFn: () =>
      unwrap(api.GET("/api/calendar", { params: { query: { from: view.from, days: Number(view.days) } } })),
  });
  const days = Number(view.days);
  const go = (n: number) => setView({ from: dayAfter(view.from, n * days) });
  return (
    <Page
      title="Calendar"
      lead={
        days > 1 ? `${showWeekday(view.from)} to ${showWeekday(dayAfter(view.from, days - 1))}` : showWeekday(view.from)
      }
      actions={
        <>
          <Button onClick={() => go(-1)} aria-label="Earlier">
            ←
          </Button>
          <Button onClick={() => setView({ from: day })}>Today</Button>
          <Button onClick={() => go(1)} aria-label="Later">
            →
          </Button>
          <Button onClick={() => setView({ days: days === 7 ? "1" : "7" })}>
            {days === 7 ? "One day" : "Seven days"}
          </Button>
          {mayWork && (
            <Button onClick={() => setView({ side: view.side === "people" ? "machines" : "people" })}>
              {view.side === "people" ? "By machine" : "By person"}
            </Button>
          )}
          {mayWork ? (
            <Button onClick={() => setFiles(true)}>Calendar files …</Button>
          ) : (
            <LinkButton to="/bookings">Your bookings</LinkButton>
          )}
        </>
      }
    >
      {mayWork && <SubPlaces label="Days" pages={dayPages} />}
      <Loaded query={query} what="Reading the calendar">
        {(c) => <Drawn calendar={c} side={mayWork ? (view.side as Side) : "machines"} now={today} />}
      </Loaded>
      {files && query.data && <CalendarFiles calendar={query.data} onClose={() => setFiles(false)} />}
    </Page>
  );
}

function Drawn({ calendar: c, side, now }: { calendar: Schemas["Calendar"]; side: Side; now: string }) {
  const mayWork = useMayWork();
  const role = useRole();
  const [open, setOpen] = useState<Item>();
  const [several, setSeveral] = useState<readonly Item[]>();
  const [book, setBook] = useState<ToBook>();
  const { write, fault, busy } = useWrite();
  const rows = rowsOf(c, side);
  const items = itemsOf(c, side, mayWork);
  const frame = frameOf(c, side === "people" ? [...items, ...c.people.flatMap((p) => p.works)] : [...c.open, ...items]);

  function drop(item: Item, row: number, from: string) {
    const { work: w, booking: b } = item;
    if (w)
      return write(
        () => pin(w.key, side === "people" ? row : w.account, from),
        ({ moved }) => toast(pinnedWords(moved), () => write(() => unpin(w))),
      );
    if (!b) return;
    const minute = Number(from.slice(11, 13)) * 60 + Number(from.slice(14, 16)) + minutesBetween(b.from, b.to);
    const body = { version: b.version, machine: row, at: b.from, from, to: isoOf({ day: from.slice(0, 10), minute }) };
    const params = { path: { id: b.id } };
    const back = () =>
      write(() =>
        unwrap(
          api.POST("/api/bookings/{id}/move", {
            params,
            body: { version: b.version + 1, machine: b.machineId, at: body.from, from: b.from, to: b.to },
          }),
        ),
      );
    if (b.mine || role === "lead")
      return write(
        () => unwrap(api.POST("/api/bookings/{id}/move", { params, body })),
        () => toast("The booking is moved", b.repeats ? undefined : back),
      );
    return write(
      () =>
        unwrap(
          api.POST("/api/bookings/{id}/offer", { params, body: { ...body, why: "it would suit the shop better" } }),
        ),
      () => toast(`Proposed to ${b.who}: it moves when they say yes`),
    );
  }

  return (
    <>
      <p className="mb-2 flex flex-wrap gap-x-6 text-sm text-dim">
        <span>
          <i aria-hidden="true" className="mr-1 inline-block h-3 w-6 border-2 border-ink bg-leaf" /> booked
        </span>
        {mayWork && (
          <span>
            <i aria-hidden="true" className="mr-1 inline-block h-3 w-6 bg-accent" /> planned work, ■ pinned
          </span>
        )}
        <span>▲ cannot take place as booked</span>
        <span>
          <i aria-hidden="true" className="mr-1 inline-block h-3 w-6 bg-rule" />{" "}
          {side === "people" ? "does not work" : "closed"}
        </span>
        {mayWork && <span>Drag a bar, or press M on it, to move it.</span>}
        {busy && <span role="status">Moving it, and making room …</span>}
      </p>
      {c.closures.map((x) => (
        <p key={x.id} className="mb-2 border-l-4 border-line px-3">
          Closed {showWeekday(x.from)} to {showWeekday(x.to)}: {x.why}
        </p>
      ))}
      <Fault text={fault} />
      <Grid
        frame={frame}
        rows={rows}
        items={items}
        openOf={(row) => openOf(c, side, row)}
        now={now}
        onOpen={setOpen}
        onSeveral={setSeveral}
        onDrop={drop}
        onEmpty={side === "machines" ? (row, day) => setBook({ machine: row.id, name: row.name, day }) : undefined}
      />
      {several && (
        <Panel open onOpenChange={() => setSeveral(undefined)} title={`${several.length} at about one time`}>
          <ul>
            {several.map((x) => (
              <li key={x.key}>
                <Button
                  className="mb-2 w-full justify-start text-left"
                  onClick={() => {
                    setSeveral(undefined);
                    setOpen(x);
                  }}
                >
                  {x.words}
                </Button>
              </li>
            ))}
          </ul>
        </Panel>
      )}
      {open?.booking && <BookingPanel booking={open.booking} onClose={() => setOpen(undefined)} />}
      {open?.work && <WorkPanel work={open.work} onClose={() => setOpen(undefined)} />}
      {book && <BookPanel key={book.machine} book={book} onClose={() => setBook(undefined)} onOther={setBook} />}
    </>
  );
}
