import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { showDay } from "../../ui/dates";
import { Button, Fault } from "../../ui/form";
import { DayField, TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { OpeningHours } from "../../ui/OpeningHours";
import { useRole, useSession } from "../../ui/session";
import { Loaded } from "../../ui/states";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

/** When somebody works: their shifts of every week, which a lead sets, and their leave. */
export function Shifts({ account }: { account: number }) {
  const query = useQuery({
    queryKey: keys.calendar("people"),
    queryFn: () => unwrap(api.GET("/api/calendar", { params: { query: { days: 1 } } })),
  });
  const person = query.data?.people.find((p) => p.account === account);
  return (
    <Loaded query={query} what="Reading when they work">
      {() => (person ? <Times key={person.version} person={person} /> : null)}
    </Loaded>
  );
}

function Times({ person: p }: { person: Schemas["CalendarPerson"] }) {
  const { shop } = useSession();
  const role = useRole();
  const [shifts, setShifts] = useState<Schemas["Hours"][]>([...p.shifts]);
  const { write, busy, fault } = useWrite();
  const leave = useKeptForm(`leave-${p.account}`, { from: "", to: "", why: "" });
  const params = { path: { id: p.account } };
  return (
    <div className="space-y-4">
      {role === "lead" && (
        <form
          onSubmit={(e) => {
            e.preventDefault();
            write(
              () => unwrap(api.PUT("/api/people/{id}/shifts", { params, body: { shifts, version: p.version } })),
              () => toast("Saved"),
            );
          }}
        >
          <OpeningHours
            legend="Works every week"
            none="does not work"
            weekStart={shop.weekStart}
            hours={shifts}
            onChange={setShifts}
          />
          <Fault text={fault} />
          <Button type="submit" className="mt-2" disabled={busy}>
            Save the shifts
          </Button>
        </form>
      )}
      <section>
        <h3 className="text-lg font-bold">Leave</h3>
        <ul>
          {p.leave.map((l) => (
            <li key={l.id} className="flex flex-wrap items-center gap-3">
              {showDay(l.from)} to {showDay(l.to)}: {l.why}
              <Button
                disabled={busy}
                onClick={() =>
                  write(() =>
                    unwrap(
                      api.POST("/api/people/{id}/leaves/{leave}/drop", {
                        params: { path: { id: p.account, leave: l.id } },
                      }),
                    ),
                  )
                }
              >
                Take it away
              </Button>
            </li>
          ))}
        </ul>
        <SendForm
          form={leave}
          send={(t) => unwrap(api.POST("/api/people/{id}/leaves", { params, body: { ...t, to: t.to || t.from } }))}
          onSent={() => toast("Noted; have the plan adjusted")}
          button="Note the leave"
          tone="plain"
        >
          <div className="grid gap-3 sm:grid-cols-3">
            <DayField control={leave.control} name="from" label="From" />
            <DayField control={leave.control} name="to" label="Until, with that day" hint="The same day when empty" />
            <TextField control={leave.control} name="why" label="Why" hint="away, ill …" required maxLength={120} />
          </div>
        </SendForm>
      </section>
    </div>
  );
}
