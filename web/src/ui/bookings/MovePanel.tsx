import { useQuery } from "@tanstack/react-query";
import { useDeferredValue } from "react";
import { useWatch } from "react-hook-form";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { clockOf, isoOf, minutesBetween, showSpan } from "../clock";
import { Button, Fault } from "../form";
import { DayField, TextField } from "../forms/fields";
import { SendForm } from "../forms/SendForm";
import { useKeptForm } from "../forms/useKeptForm";
import { Panel } from "../Panel";
import { toast } from "../toast";
import { useWrite } from "../write";

type Booking = Schemas["ShownBooking"];

/** Moves a booking to another time, or to another machine that can do the job then. */
export function MovePanel({ booking: b, onClose }: { booking: Booking; onClose: () => void }) {
  const form = useKeptForm(`move-${b.id}-${b.from}`, { day: b.from.slice(0, 10), from: b.from.slice(11, 16) });
  const typed = useWatch({ control: form.control });
  const start = useDeferredValue(`${typed.day}T${typed.from}`);
  const ask = { machine: b.machineId, from: start, to: endOf(b, start), attended: b.attended, except: b.id };
  const check = useQuery({
    queryKey: keys.bookingCheck(ask),
    queryFn: () => unwrap(api.GET("/api/bookings/check", { params: { query: ask } })),
    enabled: ask.to !== "",
    retry: false,
  });
  const { write, busy, fault } = useWrite();
  const [refused] = check.data?.refused ?? [];
  const move = (machine: number, from: string, to: string) =>
    unwrap(
      api.POST("/api/bookings/{id}/move", {
        params: { path: { id: b.id } },
        body: { version: b.version, machine, at: b.from, from, to },
      }),
    );
  const moved = () => {
    toast("The booking is moved");
    onClose();
  };
  return (
    <Panel open onOpenChange={onClose} title={`Move the booking of ${b.machine}`}>
      <SendForm
        form={form}
        send={(t) => move(b.machineId, `${t.day}T${t.from}`, endOf(b, `${t.day}T${t.from}`))}
        onSent={moved}
        button="Move it there"
        disabled={!!refused}
      >
        <div className="grid gap-3 sm:grid-cols-2">
          <DayField control={form.control} name="day" label="Day" />
          <TextField
            control={form.control}
            name="from"
            label="From"
            pattern="([01][0-9]|2[0-3]):[0-5][0-9]"
            title="A time such as 14:00"
            required
          />
        </div>
        {refused && (
          <p aria-live="polite" className="border-l-4 border-bad bg-bad-wash px-3 py-2">
            ✕ {b.machine} cannot be had then: {refused.why.join("; ")}.
          </p>
        )}
      </SendForm>
      {(check.data?.offers.length ?? 0) > 0 && <p className="mt-4 mb-1 font-semibold">Or instead:</p>}
      <p className="flex flex-wrap gap-2">
        {check.data?.offers.map((o) => (
          <Button
            key={`${o.id} ${o.from}`}
            disabled={busy}
            onClick={() => write(() => move(o.id, o.from, o.to), moved)}
          >
            {o.name}, {showSpan(o.from, o.to)}
          </Button>
        ))}
      </p>
      <Fault text={fault} />
    </Panel>
  );
}

/** When a booking ends that begins at another time and is as long. */
function endOf(b: Booking, start: string): string {
  if (!/^\d{4}-\d\d-\d\dT\d\d:\d\d$/.test(start)) return "";
  const { day, minute } = clockOf(start);
  return isoOf({ day, minute: minute + minutesBetween(b.from, b.to) });
}
