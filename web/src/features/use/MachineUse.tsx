import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useLocation, useParams, useSearchParams } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { State } from "../../ui/badges";
import { BookPanel, type ToBook } from "../../ui/bookings/BookPanel";
import { showWeekday } from "../../ui/clock";
import { ReportFault } from "../../ui/faults/ReportFault";
import { Button } from "../../ui/form";
import { isStill } from "../../ui/go";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { useSession } from "../../ui/session";
import { Loaded } from "../../ui/states";
import { tones } from "./tones";

/** What a member finds who scans the label of a machine: whether it can be used, booking it, reporting a fault. */
export default function MachineUse() {
  const id = Number(useParams().id);
  const query = useQuery({
    queryKey: keys.machineUse(id),
    queryFn: () => unwrap(api.GET("/api/machines/{id}/usable", { params: { path: { id } } })),
  });
  return (
    <Loaded query={query} what="Reading the machine">
      {(m) => <View machine={m} />}
    </Loaded>
  );
}

const headlines: Record<string, string> = {
  free: "You can use it now",
  "attended only": "You can use it while you stay with it",
  "locked out": "You cannot use it: somebody works on it",
  "known broken": "You cannot use it: something on it is known to be broken",
  "out of use": "You cannot use it: it is out of use",
};

function View({ machine: m }: { machine: Schemas["MachineForMember"] }) {
  const { shop } = useSession();
  const [asked, setAsked] = useSearchParams();
  const { key } = useLocation();
  const [reporting, setReporting] = useState(asked.has("report"));
  const [book, setBook] = useState<ToBook>();
  const taken = m.taken ? `Taken until ${m.taken.slice(11, 16)}` : "";
  const state = m.retired ? "out of use" : m.state;
  const facts = [
    ["Print size", m.size || "not on record"],
    ["Nozzle", m.nozzles.join("; ") || "not on record"],
    ["Hottest", m.hottest && `up to ${m.hottest}`],
    ["Taken next", m.next && `${showWeekday(m.next.slice(0, 10))}, ${m.next.slice(11, 16)}`],
    ["Open faults", m.faults > 0 && String(m.faults)],
    ["Questions", shop.contact],
  ].filter(([, said]) => said);
  return (
    <Page title={m.name} lead={m.bay}>
      <div className="max-w-3xl space-y-4">
        <div className="border-l-4 border-line bg-leaf px-4 py-3 text-xl">
          <State tone={taken && tones[state] !== "bad" ? "look" : tones[state]}>
            {m.retired ? "It has been retired" : taken && tones[state] !== "bad" ? taken : headlines[state]}
          </State>
          {m.why && <p className="text-base">{m.why}</p>}
        </div>
        <div className="flex flex-wrap gap-3">
          <Button main disabled={tones[state] === "bad"} onClick={() => setBook({ machine: m.id, name: m.name })}>
            Book {m.name}
          </Button>
          <Button danger onClick={() => setReporting(true)}>
            Report a fault
          </Button>
          <LinkButton to="/use">Other machines</LinkButton>
        </div>
        <div className="flex flex-wrap items-start gap-6">
          {m.photo > 0 && (
            <img
              src={`/api/photos/${m.photo}?small=true`}
              alt={`From the record of ${m.name}`}
              className="h-36 border-2 border-line"
            />
          )}
          <dl className="grid flex-1 grid-cols-[auto_1fr] gap-x-6 gap-y-1">
            {facts.map(([what, said]) => (
              <div key={String(what)} className="contents">
                <dt className="text-dim">{what}</dt>
                <dd className="font-semibold whitespace-pre-line">{said}</dd>
              </div>
            ))}
          </dl>
        </div>
        <LinkButton to="?record=1">Full record</LinkButton>
      </div>
      {book && <BookPanel key={book.machine} book={book} onClose={() => setBook(undefined)} onOther={setBook} />}
      {reporting && (
        <ReportFault
          machine={m.id}
          onClose={() => {
            setReporting(false);
            if (asked.has("report") && isStill(key)) setAsked({}, { replace: true });
          }}
        />
      )}
    </Page>
  );
}
