import { useQuery } from "@tanstack/react-query";
import { useDeferredValue } from "react";
import { useWatch } from "react-hook-form";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { showSpan, showWeekday } from "../clock";
import { Button } from "../form";
import { CheckField, DayField, SelectField, TextField } from "../forms/fields";
import { SendForm } from "../forms/SendForm";
import { useKeptForm } from "../forms/useKeptForm";
import { Panel } from "../Panel";
import { useSession } from "../session";
import { toast } from "../toast";

type Need = { x: number; y: number; z: number; hot: number };

/** What is booked: a machine, and what a print asks of it. */
export type ToBook = { machine: number; name: string; day?: string; need?: Need };

const repeats = [
  ["", "once"],
  ["FREQ=DAILY", "every day"],
  ["FREQ=WEEKLY", "every week"],
  ["FREQ=WEEKLY;INTERVAL=2", "every other week"],
  ["FREQ=MONTHLY", "every month"],
] as const;

const clock = { pattern: "([01][0-9]|2[0-3]):[0-5][0-9]", title: "A time such as 14:00", maxLength: 5 };

/** Books a machine. Whether it can be had is looked up while the form is filled in; where it cannot, others are offered. */
export function BookPanel({
  book,
  onClose,
  onOther,
}: {
  book: ToBook;
  onClose: () => void;
  onOther: (other: ToBook) => void;
}) {
  const { today } = useSession();
  const start = { day: book.day ?? today.slice(0, 10), from: "14:00", toDay: "", to: "16:00", what: "" };
  const form = useKeptForm(`book-${book.machine}`, { ...start, attended: true, rule: "", times: "8", leaveOut: false });
  const { control } = form;
  const typed = useWatch({ control });
  const ask = useDeferredValue(askedOf(typed, book.machine));
  const check = useQuery({
    queryKey: keys.bookingCheck(ask, book.need),
    queryFn: () => unwrap(api.GET("/api/bookings/check", { params: { query: { ...ask, ...book.need } } })),
    enabled: ask.from.length === 16 && ask.to.length === 16,
    retry: false,
  });
  const refused = check.data?.refused ?? [];
  const several = (check.data?.times ?? 1) > 1;
  return (
    <Panel open onOpenChange={onClose} title={`Book ${book.name}`}>
      <SendForm
        form={form}
        send={(t) => {
          const { machine: _, ...asked } = askedOf(t, book.machine);
          return unwrap(
            api.POST("/api/bookings", {
              body: { machine: book.machine, ...asked, what: t.what, need: book.need, leaveOut: t.leaveOut },
            }),
          );
        }}
        onSent={() => {
          toast(`${book.name} is booked`);
          onClose();
        }}
        button="Book it"
        disabled={refused.length > 0 && !(several && typed.leaveOut && refused.length < (check.data?.times ?? 0))}
      >
        <TextField control={control} name="what" label="What you print" required maxLength={120} />
        <div className="grid gap-3 sm:grid-cols-3">
          <DayField control={control} name="day" label="Day" />
          <TextField control={control} name="from" label="From" required inputMode="numeric" {...clock} />
          <TextField control={control} name="to" label="Until" required inputMode="numeric" {...clock} />
        </div>
        <CheckField control={control} name="attended" label="I stay with the machine while it prints" />
        <details>
          <summary className="min-h-11 cursor-pointer py-2 font-semibold">Over night, or again and again</summary>
          <div className="grid gap-3 sm:grid-cols-3">
            <DayField control={control} name="toDay" label="Until another day" hint="The same day when empty" />
            <SelectField control={control} name="rule" label="How often" options={repeats} />
            {typed.rule && (
              <TextField
                control={control}
                name="times"
                label="How many times"
                inputMode="numeric"
                pattern="[1-9][0-9]?"
              />
            )}
          </div>
        </details>
        <div aria-live="polite">
          {check.isError && (
            <p className="border-l-4 border-look bg-look-wash px-3 py-2">{String(check.error.message)}</p>
          )}
          {check.data && refused.length === 0 && (
            <p className="border-l-4 border-good bg-good-wash px-3 py-2">
              <b>
                ● {book.name} is free then{several && `, all ${check.data.times} times`}.
              </b>
            </p>
          )}
          {check.data && refused.length > 0 && (
            <Refused answer={check.data} book={book} onOther={onOther} onTime={(o) => put(form.setValue, o)} />
          )}
        </div>
        {several && refused.length > 0 && (
          <CheckField
            control={control}
            name="leaveOut"
            label={`Book the other ${(check.data?.times ?? 0) - refused.length} times without these`}
          />
        )}
      </SendForm>
    </Panel>
  );
}

type Typed = Partial<{
  day: string;
  from: string;
  to: string;
  toDay: string;
  attended: boolean;
  rule: string;
  times: string;
}>;

function askedOf(t: Typed, machine: number) {
  const day = t.day ?? "";
  return {
    machine,
    from: `${day}T${t.from ?? ""}`,
    to: `${t.toDay || day}T${t.to ?? ""}`,
    attended: t.attended ?? true,
    rule: t.rule ? `${t.rule};COUNT=${t.times || 1}` : "",
  };
}

function put(set: (name: "day" | "from" | "to" | "toDay", to: string) => void, o: Schemas["BookingOffer"]) {
  set("day", o.from.slice(0, 10));
  set("from", o.from.slice(11, 16));
  set("to", o.to.slice(11, 16));
  set("toDay", o.to.slice(0, 10) === o.from.slice(0, 10) ? "" : o.to.slice(0, 10));
}

function Refused({
  answer,
  book,
  onOther,
  onTime,
}: {
  answer: Schemas["BookingAnswer"];
  book: ToBook;
  onOther: (other: ToBook) => void;
  onTime: (offer: Schemas["BookingOffer"]) => void;
}) {
  return (
    <div className="border-l-4 border-bad bg-bad-wash px-3 py-2">
      <p className="font-bold">✕ {book.name} cannot be booked so:</p>
      <ul>
        {answer.refused.slice(0, 4).map((r) => (
          <li key={r.from}>
            {answer.times > 1 && <b>{showWeekday(r.from.slice(0, 10))}: </b>}
            {r.why.join("; ")}.
          </li>
        ))}
        {answer.refused.length > 4 && <li>and {answer.refused.length - 4} more times</li>}
      </ul>
      {answer.offers.length > 0 && <p className="mt-2 font-semibold">What you can book instead:</p>}
      <ul className="flex flex-wrap gap-2">
        {answer.offers.map((o) => (
          <li key={`${o.id} ${o.from}`}>
            <Button
              onClick={() =>
                o.id === book.machine
                  ? onTime(o)
                  : onOther({ machine: o.id, name: o.name, day: o.from.slice(0, 10), need: book.need })
              }
            >
              {o.id === book.machine ? showSpan(o.from, o.to) : `${o.name}, ${o.bay}: the same time`}
            </Button>
          </li>
        ))}
      </ul>
    </div>
  );
}
