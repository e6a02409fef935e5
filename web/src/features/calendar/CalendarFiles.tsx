import { useState } from "react";
import type { Control, FieldPathByValue } from "react-hook-form";
import { api, type Schemas, unwrap } from "../../api/client";
import { showMoment } from "../../ui/dates";
import { Button, Fault, Field } from "../../ui/form";
import { CheckField, DayField, SelectField, TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { LinkButton } from "../../ui/LinkButton";
import { Panel } from "../../ui/Panel";
import { useRole } from "../../ui/session";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

type Calendar = Schemas["Calendar"];

/** Calendars in and out, and the days on which the shop is closed. */
export function CalendarFiles({ calendar, onClose }: { calendar: Calendar; onClose: () => void }) {
  const role = useRole();
  const machines = calendar.machines.map((m) => [String(m.id), m.name] as const);
  return (
    <Panel open onOpenChange={onClose} title="Calendar files">
      <div className="space-y-6">
        <section>
          <h3 className="mb-1 text-lg font-bold">Out</h3>
          <LinkButton href="/api/bookings.ics">All bookings as a calendar file</LinkButton>
        </section>
        <ImportFile machines={machines} />
        {role === "lead" && <Feeds calendar={calendar} machines={machines} />}
        {role === "lead" && <Closures calendar={calendar} />}
      </div>
    </Panel>
  );
}

type Machines = readonly (readonly [string, string])[];

/** The machine that a calendar is for, and whether somebody stays with it. */
function ForMachine<T extends { machine: string; attended: boolean }>({
  control,
  machines,
}: {
  control: Control<T>;
  machines: Machines;
}) {
  return (
    <>
      <SelectField
        control={control}
        name={"machine" as FieldPathByValue<T, string | undefined>}
        label="For which machine"
        options={machines}
        empty="choose"
        required
      />
      <CheckField
        control={control}
        name={"attended" as FieldPathByValue<T, boolean>}
        label="Somebody stays with the machine"
      />
    </>
  );
}

function ImportFile({ machines }: { machines: Machines }) {
  const form = useKeptForm("calendar-import", { machine: "", attended: true });
  const [text, setText] = useState("");
  const [done, setDone] = useState<Schemas["ImportedCalendar"]>();
  return (
    <section>
      <h3 className="mb-1 text-lg font-bold">In, from a file</h3>
      <SendForm
        form={form}
        send={(t) => unwrap(api.POST("/api/calendar/import", { body: { ...t, machine: Number(t.machine), text } }))}
        onSent={setDone}
        button="Import the bookings"
        disabled={!text}
        tone="plain"
      >
        <Field label="Calendar file, .ics" htmlFor="calendar-file">
          <input
            id="calendar-file"
            type="file"
            accept=".ics,text/calendar"
            className="min-h-11 w-full border-2 border-line p-2"
            onChange={async (e) => setText((await e.target.files?.[0]?.text()) ?? "")}
          />
        </Field>
        <ForMachine control={form.control} machines={machines} />
      </SendForm>
      {done && (
        <div role="status" className="mt-2 border-l-4 border-line px-3 py-1">
          <p className="font-bold">{done.taken === 1 ? "1 booking was" : `${done.taken} bookings were`} taken.</p>
          <ul>
            {done.problems.map((p) => (
              <li key={`${p.line} ${p.says}`}>
                {p.line > 0 && `Line ${p.line}: `}
                {p.says}
              </li>
            ))}
          </ul>
        </div>
      )}
    </section>
  );
}

function Feeds({ calendar, machines }: { calendar: Calendar; machines: Machines }) {
  const form = useKeptForm("calendar-feed", { url: "", machine: "", name: "", attended: true });
  const { write, busy, fault } = useWrite();
  return (
    <section>
      <h3 className="mb-1 text-lg font-bold">In, from an address outside</h3>
      <p className="mb-2 text-dim">
        Off until you type one. It is read every hour; only public addresses are. Until then nothing of Wardifex goes
        out.
      </p>
      <ul className="mb-2">
        {calendar.feeds.map((f) => (
          <li key={f.id} className="flex flex-wrap items-center gap-3 border-b border-rule py-1">
            <span className="min-w-0 flex-1">
              <b>{f.name}</b>, {f.machine} <span className="break-all text-dim">{f.url}</span>
              <span className="block">
                {f.says} {f.readAt && <span className="text-dim">{showMoment(f.readAt)}</span>}
              </span>
            </span>
            <Button
              disabled={busy}
              onClick={() =>
                write(() => unwrap(api.POST("/api/calendar/feeds/{id}/end", { params: { path: { id: f.id } } })))
              }
            >
              End it
            </Button>
          </li>
        ))}
      </ul>
      <Fault text={fault} />
      <SendForm
        form={form}
        send={(t) => unwrap(api.POST("/api/calendar/feeds", { body: { ...t, machine: Number(t.machine) } }))}
        onSent={() => toast("The calendar is read from now on")}
        button="Read it from now on"
        sending="Reading it …"
        tone="plain"
      >
        <TextField
          control={form.control}
          name="url"
          label="Address"
          type="url"
          placeholder="https://"
          required
          maxLength={1000}
        />
        <TextField control={form.control} name="name" label="Whose calendar it is" required maxLength={80} />
        <ForMachine control={form.control} machines={machines} />
      </SendForm>
    </section>
  );
}

function Closures({ calendar }: { calendar: Calendar }) {
  const form = useKeptForm("closure", { from: "", to: "", why: "" });
  const { write, busy, fault } = useWrite();
  return (
    <section>
      <h3 className="mb-1 text-lg font-bold">Days on which the shop is closed</h3>
      <ul>
        {calendar.closures.map((c) => (
          <li key={c.id} className="flex items-center gap-3">
            {c.from} to {c.to}: {c.why}
            <Button
              disabled={busy}
              onClick={() =>
                write(() => unwrap(api.POST("/api/closures/{id}/drop", { params: { path: { id: c.id } } })))
              }
            >
              Open then
            </Button>
          </li>
        ))}
      </ul>
      <Fault text={fault} />
      <SendForm
        form={form}
        send={(t) => unwrap(api.POST("/api/closures", { body: { ...t, to: t.to || t.from } }))}
        onSent={() => toast("The shop is closed then")}
        button="Close the shop then"
        tone="plain"
      >
        <div className="grid gap-3 sm:grid-cols-2">
          <DayField control={form.control} name="from" label="From" />
          <DayField control={form.control} name="to" label="Until, with that day" hint="The same day when empty" />
        </div>
        <TextField control={form.control} name="why" label="Why" required maxLength={120} />
      </SendForm>
    </section>
  );
}
