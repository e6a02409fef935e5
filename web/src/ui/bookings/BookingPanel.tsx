import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { showSpan } from "../clock";
import { Button, Fault } from "../form";
import { Panel } from "../Panel";
import { useRole } from "../session";
import { toast } from "../toast";
import { useWrite } from "../write";
import { MovePanel } from "./MovePanel";

type Booking = Schemas["ShownBooking"];

/** One booking: what it is, what is proposed, and the ways to cancel it. */
export function BookingPanel({ booking: b, onClose }: { booking: Booking; onClose: () => void }) {
  return (
    <Panel open onOpenChange={onClose} title={`${b.machine}, ${showSpan(b.from, b.to)}`}>
      <BookingFacts booking={b} />
      <BookingActs booking={b} onDone={onClose} />
    </Panel>
  );
}

export function BookingFacts({ booking: b }: { booking: Booking }) {
  return (
    <>
      <p>
        {b.mine ? (
          b.what
        ) : b.who ? (
          <>
            <b>{b.who}</b>: {b.what}
          </>
        ) : (
          "Somebody has it then."
        )}
      </p>
      <p className="text-dim">
        {b.attended ? `${b.mine ? "You" : "They"} stay with the machine.` : "The machine is left alone."}
        {b.repeats && " It is one of several times."}
        {b.id === 0 && " It comes from a calendar outside, and is changed there."}
      </p>
      {b.clash && (
        <p className="mt-2 border-l-4 border-look bg-look-wash px-3 py-2">
          <b>▲ It cannot take place as booked:</b> {b.clash}.
        </p>
      )}
      {b.offer && (
        <p className="mt-2 border-l-4 border-cond bg-wash px-3 py-2">
          <b>{b.offer.by} proposes:</b> {b.offerOn}, {showSpan(b.offer.from, b.offer.to)}
          {b.offer.why && ` (${b.offer.why})`}
        </p>
      )}
    </>
  );
}

/** What its owner or a lead does with a booking. */
export function BookingActs({ booking: b, onDone }: { booking: Booking; onDone?: () => void }) {
  const role = useRole();
  const [asks, setAsks] = useState(false);
  const [moves, setMoves] = useState(false);
  const { write, busy, fault } = useWrite();
  if (b.id === 0 || !(b.mine || role === "lead")) return null;
  const params = { path: { id: b.id } };
  const cancel = (at?: string) =>
    write(
      () => unwrap(api.POST("/api/bookings/{id}/cancel", { params, body: { version: b.version, at } })),
      () => {
        toast("The booking is cancelled");
        onDone?.();
      },
    );
  const answer = (yes: boolean) =>
    write(
      () => unwrap(api.POST("/api/bookings/{id}/answer", { params, body: { version: b.version, yes } })),
      () => {
        toast(yes ? "The booking is moved" : "The booking stays where it is");
        onDone?.();
      },
    );
  return (
    <div className="mt-3">
      <div className="flex flex-wrap gap-2">
        {b.offer && (
          <>
            <Button main disabled={busy} onClick={() => answer(true)}>
              Move it there
            </Button>
            <Button disabled={busy} onClick={() => answer(false)}>
              Leave it where it is
            </Button>
          </>
        )}
        {!asks && (
          <Button onClick={() => setMoves(true)} aria-label={`Move the booking of ${b.machine}`}>
            Move it …
          </Button>
        )}
        {!asks && (
          <Button danger onClick={() => setAsks(true)} aria-label={`Cancel the booking of ${b.machine}`}>
            Cancel it …
          </Button>
        )}
        {asks && (
          <Button danger disabled={busy} onClick={() => cancel(b.repeats ? b.from : undefined)}>
            {b.repeats ? "Cancel this one time" : "Yes, cancel it"}
          </Button>
        )}
        {asks && b.repeats && (
          <Button danger disabled={busy} onClick={() => cancel()}>
            Cancel all its times
          </Button>
        )}
      </div>
      <Fault text={fault} />
      {moves && (
        <MovePanel
          booking={b}
          onClose={() => {
            setMoves(false);
            onDone?.();
          }}
        />
      )}
    </div>
  );
}
