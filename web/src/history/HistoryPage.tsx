import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { api, type Schemas, unwrap } from "../api/client";
import { useMayWork, useSession } from "../app/session";
import { Differences } from "../history/Differences";
import { GradeMark } from "../ui/badges";
import { DayInput } from "../ui/DayInput";
import { showDay } from "../ui/dates";
import { Button, Check, Fault, Field, TextInput } from "../ui/form";
import { LinkButton } from "../ui/LinkButton";
import { showMoney } from "../ui/money";
import { Page } from "../ui/Page";
import { Loaded } from "../ui/states";
import { toast } from "../ui/toast";
import { Who } from "../ui/Who";
import { useWrite } from "../ui/write";
import { ChangesOfThing } from "./Changes";

const kinds: [string, readonly string[]][] = [
  ["Parts and builds", ["part", "build", "register"]],
  ["Readings", ["reading", "set aside"]],
  ["Work", ["work", "labour"]],
  ["Calibrations and upkeep", ["calibration", "upkeep"]],
  ["Faults and use", ["fault", "use"]],
];

const marks: Record<string, string> = {
  part: "▣",
  build: "▤",
  register: "◎",
  reading: "·",
  "set aside": "×",
  work: "⚒",
  labour: "◷",
  calibration: "⊹",
  upkeep: "⟳",
  fault: "✖",
  use: "▲",
};

/** What happened to a machine, how it was on a day, and what changed between two. */
export default function HistoryPage() {
  const id = Number(useParams().id);
  const sheet = useQuery({
    queryKey: ["sheet", id],
    queryFn: () => unwrap(api.GET("/api/machines/{id}", { params: { path: { id } } })),
  });
  const events = useQuery({
    queryKey: ["timeline", id],
    queryFn: () => unwrap(api.GET("/api/machines/{id}/timeline", { params: { path: { id } } })),
  });
  const [hidden, setHidden] = useState<string[]>([]);
  return (
    <Loaded query={sheet} what="Reading the machine">
      {(s) => (
        <Page
          title={`${s.name}: history`}
          lead="Readings, parts, work, faults, builds, newest first."
          actions={
            <>
              <LinkButton to={`/machine/${id}`}>Sheet</LinkButton>
              <LinkButton href={`/api/record.json?machine=${id}`}>Whole record as JSON</LinkButton>
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
              <Loaded query={events} what="Reading what happened">
                {(list) => (
                  <Events
                    list={list.filter(
                      (e) => !kinds.some(([label, of]) => hidden.includes(label) && of.includes(e.kind)),
                    )}
                  />
                )}
              </Loaded>
            </section>
            <div className="space-y-8">
              <Between id={id} since={s.since} />
              <AsOf id={id} />
              <CostView sheet={s} />
            </div>
          </div>
          <ChangesOfThing of={{ machine: id }} />
        </Page>
      )}
    </Loaded>
  );
}

function Events({ list }: { list: readonly Schemas["Event"][] }) {
  if (list.length === 0) return <p className="text-dim">Nothing of this is on record.</p>;
  let day = "";
  return (
    <ol className="bg-leaf">
      {list.map((e) => {
        const here = showDay(e.at);
        const fresh = here !== day;
        day = here;
        return (
          <li
            key={[e.at, e.kind, e.slot, e.title, e.text].join()}
            className="grid grid-cols-[7rem_1.5rem_minmax(0,1fr)] gap-x-2 border-b border-rule px-3 py-1.5"
          >
            <span className={fresh ? "font-semibold" : "sr-only"}>{here}</span>
            {!fresh && <span />}
            <span aria-hidden="true" className={e.kind === "fault" ? "text-bad" : "text-dim"}>
              {marks[e.kind] ?? "·"}
            </span>
            <span className="min-w-0">
              <b>
                {e.slot ? `${e.slot}: ` : ""}
                {e.kind === "reading" ? "recorded" : e.kind === "part" || e.kind === "build" ? "" : `${e.kind}: `}
                {e.kind === "reading" ? "" : e.title}
              </b>{" "}
              {e.text && <span className="break-words">{e.text}</span>}{" "}
              <span className="text-sm text-dim">
                <Who name={e.by ?? ""} words />
                {e.order ? (
                  <Link className="ml-2 underline" to={`/work/${e.order}`}>
                    order {e.order}
                  </Link>
                ) : null}
                {e.part && e.kind === "part" ? (
                  <Link className="ml-2 underline" to={`/part/${e.part}`}>
                    the part
                  </Link>
                ) : null}
              </span>
            </span>
          </li>
        );
      })}
    </ol>
  );
}

function Between({ id, since }: { id: number; since: string }) {
  const { today } = useSession();
  const [days, setDays] = useState<[string, string]>([since.slice(0, 10), today.slice(0, 10)]);
  const query = useQuery({
    queryKey: ["compare", id, id, ...days],
    queryFn: () =>
      unwrap(api.GET("/api/compare", { params: { query: { a: id, b: id, dayA: days[0], dayB: days[1] } } })),
  });
  return (
    <section aria-labelledby="between">
      <h2 id="between" className="mb-2 text-2xl font-bold">
        What changed between two days
      </h2>
      <div className="no-print mb-3 grid grid-cols-2 gap-3">
        <Field label="From" htmlFor="between-a">
          <DayInput id="between-a" value={days[0]} onChange={(v) => setDays([v, days[1]])} />
        </Field>
        <Field label="To" htmlFor="between-b">
          <DayInput id="between-b" value={days[1]} onChange={(v) => setDays([days[0], v])} />
        </Field>
      </div>
      <Loaded query={query} what="Comparing">
        {(c) => <Differences comparison={c} names={[showDay(c.a.at), showDay(c.b.at)]} narrow />}
      </Loaded>
    </section>
  );
}

function AsOf({ id }: { id: number }) {
  const [day, setDay] = useState("");
  const query = useQuery({
    queryKey: ["as-of", id, day],
    queryFn: () => unwrap(api.GET("/api/machines/{id}/as-of", { params: { path: { id }, query: { day } } })),
    enabled: day !== "",
  });
  return (
    <section aria-labelledby="as-of">
      <h2 id="as-of" className="mb-2 text-2xl font-bold">
        How it was on a day
      </h2>
      <Field label="Day" htmlFor="as-of-day" hint="As the record stood at its end">
        <DayInput id="as-of-day" value={day} onChange={setDay} />
      </Field>
      {day !== "" && (
        <Loaded query={query} what="Looking back">
          {(p) => {
            const known = p.slots
              .map((s) => ({ ...s, traits: s.traits.filter((t) => t.grade !== "unknown") }))
              .filter((s) => s.traits.length > 0);
            return known.length === 0 ? (
              <p className="mt-3 text-dim">Nothing was on record yet.</p>
            ) : (
              <dl className="mt-3 bg-leaf">
                {known.map((s) => (
                  <div key={s.key} className="border-b border-rule px-3 py-1.5">
                    <dt className="font-bold">{s.label}</dt>
                    {s.traits.map((t) => (
                      <dd key={t.key} className="flex flex-wrap gap-x-3 pl-4">
                        <span className="text-dim">{t.short}</span> {t.value} <GradeMark grade={t.grade} word={false} />
                      </dd>
                    ))}
                  </div>
                ))}
              </dl>
            );
          }}
        </Loaded>
      )}
    </section>
  );
}

function CostView({ sheet }: { sheet: Schemas["Sheet"] }) {
  const mayWork = useMayWork();
  const c = sheet.cost;
  const [minutes, setMinutes] = useState("");
  const [what, setWhat] = useState("");
  const { write, busy, fault } = useWrite();
  return (
    <section aria-labelledby="cost">
      <h2 id="cost" className="mb-2 text-2xl font-bold">
        What it has cost
      </h2>
      <dl className="grid grid-cols-[minmax(0,1fr)_auto] gap-x-4 bg-leaf px-3 py-2">
        <dt>The machine</dt>
        <dd className="text-right font-mono">{c.machine ? showMoney(c.machine) : "no price on record"}</dd>
        <dt>
          Parts first fitted here, {c.priced} with a price{c.unpriced > 0 && `, ${c.unpriced} without`}
          {c.movedIn > 0 && `; ${c.movedIn} moved in, counted where they came from`}
        </dt>
        <dd className="text-right font-mono">{showMoney(c.parts)}</dd>
        <dt className="border-t border-line font-bold">Together</dt>
        <dd className="border-t border-line text-right font-mono font-bold">{showMoney(c.machine + c.parts)}</dd>
        <dt>Hours of work</dt>
        <dd className="text-right font-mono">{(c.minutes / 60).toFixed(1)} h</dd>
      </dl>
      {mayWork && (
        <form
          className="no-print mt-3 grid grid-cols-[7rem_minmax(0,1fr)_auto] items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            write(
              () =>
                unwrap(
                  api.POST("/api/machines/{id}/labour", {
                    params: { path: { id: sheet.id } },
                    body: { minutes: Number(minutes), what },
                  }),
                ),
              () => {
                setMinutes("");
                setWhat("");
                toast("Work recorded");
              },
            );
          }}
        >
          <Field label="Minutes" htmlFor="labour-minutes">
            <TextInput
              id="labour-minutes"
              inputMode="numeric"
              pattern="[0-9]+"
              value={minutes}
              onChange={setMinutes}
              required
            />
          </Field>
          <Field label="What was done" htmlFor="labour-what">
            <TextInput id="labour-what" value={what} onChange={setWhat} required />
          </Field>
          <Button type="submit" disabled={busy}>
            Add
          </Button>
          <div className="col-span-3">
            <Fault text={fault} />
          </div>
        </form>
      )}
    </section>
  );
}
