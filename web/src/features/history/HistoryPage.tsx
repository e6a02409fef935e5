import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useParams } from "react-router";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { ChangesOfThing } from "../../ui/Changes";
import { Check } from "../../ui/form";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { More, usePages } from "../../ui/pages";
import { useMayWork } from "../../ui/session";
import { Loaded } from "../../ui/states";
import { AsOf } from "./AsOf";
import { Between } from "./Between";
import { CostView } from "./CostView";
import { Events, kinds } from "./Events";

/** Events that come at once. */
const EVENTS = 200;

/** What happened to a machine, how it was on a day, and what changed between two. */
export default function HistoryPage() {
  const id = Number(useParams().id);
  const sheet = useQuery({
    queryKey: keys.sheet(id),
    queryFn: () => unwrap(api.GET("/api/machines/{id}", { params: { path: { id } } })),
  });
  const events = usePages(
    keys.timeline(id),
    (offset) =>
      unwrap(api.GET("/api/machines/{id}/timeline", { params: { path: { id }, query: { offset, limit: EVENTS } } })),
    (p) => p.rows,
    (p) => p.found,
  );
  const [hidden, setHidden] = useState<string[]>([]);
  const mayWork = useMayWork();
  return (
    <Loaded query={sheet} what="Reading the machine">
      {(s) => (
        <Page
          title={`${s.name}: history`}
          lead="Readings, parts, work, faults, builds, newest first."
          actions={
            <>
              <LinkButton to={`/machine/${id}`}>Sheet</LinkButton>
              {mayWork && <LinkButton href={`/api/record.json?machine=${id}`}>Whole record as JSON</LinkButton>}
            </>
          }
        >
          <div className="grid gap-8 xl:grid-cols-[minmax(0,3fr)_minmax(22rem,2fr)]">
            <section aria-labelledby="events">
              <h2 id="events" className="mb-2 text-2xl font-bold">
                What happened
              </h2>
              <div className="no-print mb-2 flex flex-wrap gap-x-5">
                {kinds.map(([label]) => (
                  <Check
                    key={label}
                    label={label}
                    checked={!hidden.includes(label)}
                    onChange={(on) => setHidden(on ? hidden.filter((h) => h !== label) : [...hidden, label])}
                  />
                ))}
              </div>
              <Loaded query={events.query} what="Reading what happened">
                {() => (
                  <>
                    <Events
                      list={events.rows.filter(
                        (e) => !kinds.some(([label, of]) => hidden.includes(label) && of.includes(e.kind)),
                      )}
                    />
                    <More
                      query={events.query}
                      shown={events.rows.length}
                      found={events.first?.found ?? 0}
                      what="events"
                    />
                  </>
                )}
              </Loaded>
            </section>
            <div className="space-y-8">
              <Between id={id} since={s.since} />
              <AsOf id={id} />
              {mayWork && <CostView sheet={s} />}
            </div>
          </div>
          <ChangesOfThing of={{ machine: id }} />
        </Page>
      )}
    </Loaded>
  );
}
