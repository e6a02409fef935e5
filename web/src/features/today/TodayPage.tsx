import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { Link } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { showDay, showMoment } from "../../ui/dates";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { dayPages, SubPlaces } from "../../ui/SubPlaces";
import { useSession } from "../../ui/session";
import { Loaded } from "../../ui/states";
import { OpenFaults, OpenWork } from "./Open";
import { DueSoon, Safety } from "./Safety";
import { State } from "./State";
import { Stops } from "./Stops";
import { TakenDangers } from "./TakenDangers";

/** A person's day: what happened since they were here, what to do now and where, and how the fleet stands. */
export default function TodayPage() {
  const session = useSession();
  const today = useQuery({ queryKey: keys.today(), queryFn: () => unwrap(api.GET("/api/today")) });
  const due = useQuery({
    queryKey: keys.due("today"),
    queryFn: () => unwrap(api.GET("/api/due", { params: { query: { within: 7 } } })),
  });
  const orders = useQuery({ queryKey: keys.orders(), queryFn: () => unwrap(api.GET("/api/work")) });
  const faults = useQuery({
    queryKey: keys.faults(0, "open"),
    queryFn: () => unwrap(api.GET("/api/faults", { params: { query: { show: "open" } } })),
  });
  const here = today.isSuccess;
  useEffect(() => {
    if (here) unwrap(api.POST("/api/visits")).catch(() => undefined); // told again next time
  }, [here]);
  return (
    <Page
      title="Today"
      lead={`${showDay(session.today)}${session.shop.name && `, ${session.shop.name}`}`}
      actions={
        <>
          <LinkButton to="/faults?report=1">Report a fault</LinkButton>
          <LinkButton to="/identify">Inspect</LinkButton>
        </>
      }
    >
      <SubPlaces label="Days" pages={dayPages} />
      <TakenDangers />
      {due.data && <Safety due={due.data} />}
      {today.data && <News today={today.data} />}
      <div className="grid items-start gap-x-8 gap-y-6 xl:grid-cols-[minmax(0,3fr)_minmax(0,2fr)]">
        <div className="space-y-6">
          <Loaded query={today} what="Reading your day">
            {(t) => <Stops today={t} />}
          </Loaded>
          {/* A schedule says when each job is done. Whether there is one is known with the day. */}
          {!today.isPending && !today.data?.planned && (
            <Loaded query={due} what="Working out what is due">
              {(d) => <DueSoon due={d} />}
            </Loaded>
          )}
        </div>
        <div className="space-y-6">
          {today.data && <State lines={today.data.lines} />}
          <Loaded query={orders} what="Reading the work orders">
            {(o) => <OpenWork orders={o.rows} me={session.account} />}
          </Loaded>
          <Loaded query={faults} what="Reading the faults">
            {(book) => <OpenFaults book={book} />}
          </Loaded>
        </div>
      </div>
    </Page>
  );
}

/** Since they were last here. */
function News({ today }: { today: Schemas["TodayView"] }) {
  if (!today.since) return null;
  return (
    <section className="mb-4">
      <h2 className="font-bold">
        Since you were last here <span className="font-normal text-dim">{showMoment(today.since)}</span>
      </h2>
      {today.news.length === 0 ? (
        <p className="text-dim">Nobody else did anything to the fleet.</p>
      ) : (
        <ul className="flex flex-wrap gap-x-6">
          {today.news.map((n) => (
            <li key={n.words}>
              <Link className="inline-flex min-h-10 items-center underline underline-offset-4" to={n.link}>
                {n.words}
              </Link>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
