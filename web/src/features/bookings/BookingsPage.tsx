import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { BookingActs, BookingFacts } from "../../ui/bookings/BookingPanel";
import { showSpan } from "../../ui/clock";
import { showDay } from "../../ui/dates";
import { Button, Fault } from "../../ui/form";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { Empty, Loaded } from "../../ui/states";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

/** Somebody's own coming bookings, and the link by which another program shows them. */
export default function BookingsPage() {
  const query = useQuery({ queryKey: keys.myBookings(), queryFn: () => unwrap(api.GET("/api/bookings/mine")) });
  return (
    <Page
      title="Your bookings"
      actions={
        <>
          <LinkButton main to="/use">
            Find a machine
          </LinkButton>
          <LinkButton to="/calendar">Calendar</LinkButton>
        </>
      }
    >
      <Loaded query={query} what="Reading your bookings">
        {(list) =>
          list.length === 0 ? (
            <Empty title="You have no booking ahead." />
          ) : (
            <ul className="max-w-4xl bg-leaf">
              {list.map((b) => (
                <li key={`${b.id} ${b.from}`} className="border-b border-rule px-4 py-3">
                  <h2 className="text-lg font-bold">
                    {b.machine}, {showSpan(b.from, b.to)}
                  </h2>
                  <BookingFacts booking={b} />
                  <BookingActs booking={b} />
                </li>
              ))}
            </ul>
          )
        }
      </Loaded>
      <Links />
    </Page>
  );
}

/** Links by which a calendar program reads this person's calendar. */
function Links() {
  const [made, setMade] = useState("");
  const { write, busy, fault } = useWrite();
  const query = useQuery({ queryKey: keys.calendarLinks(), queryFn: () => unwrap(api.GET("/api/calendar/links")) });
  return (
    <section className="mt-8 max-w-4xl">
      <h2 className="mb-1 border-b-2 border-line text-xl font-bold">In your own calendar</h2>
      <p className="mb-2">
        A link for a calendar program: it shows your bookings and the work planned for you. Whoever has the link sees
        them; end it here when it got around.
      </p>
      {made && (
        <div role="status" className="mb-3 border-l-4 border-good bg-good-wash px-4 py-3">
          <p className="font-bold">Your link. It is shown this once: copy it now.</p>
          <p className="my-2 font-mono break-all select-all">{made}</p>
          <Button onClick={() => navigator.clipboard?.writeText(made).then(() => toast("Copied"))}>Copy</Button>
        </div>
      )}
      <ul>
        {query.data?.map((l) => (
          <li key={l.id} className="flex items-center gap-3">
            A link made on {showDay(l.madeAt)}
            <Button
              disabled={busy}
              onClick={() =>
                write(
                  () => unwrap(api.POST("/api/calendar/links/{id}/end", { params: { path: { id: l.id } } })),
                  () => {
                    setMade("");
                    toast("The link is ended");
                  },
                )
              }
            >
              End it
            </Button>
          </li>
        ))}
      </ul>
      <Button
        disabled={busy}
        onClick={() =>
          write(
            () => unwrap(api.POST("/api/calendar/links")),
            (link) => setMade(`${location.origin}${link.path}`),
          )
        }
      >
        Make a link
      </Button>
      <Fault text={fault} />
    </section>
  );
}
