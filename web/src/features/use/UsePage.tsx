import { useDeferredValue, useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { State } from "../../ui/badges";
import { BookPanel, type ToBook } from "../../ui/bookings/BookPanel";
import { showWeekday } from "../../ui/clock";
import { useDraft } from "../../ui/draft";
import { ReportFault } from "../../ui/faults/ReportFault";
import { Button, Check, Field, TextInput } from "../../ui/form";
import { Page } from "../../ui/Page";
import { More, usePages } from "../../ui/pages";
import { useSession } from "../../ui/session";
import { Empty, Loaded } from "../../ui/states";
import { tones } from "./tones";

type Usable = Schemas["Usable"];

const none = { text: "", x: "", y: "", z: "", hot: "", only: true };

/** Which machine can be used now: what is free, for what size and material, and why the others are not. */
export default function UsePage() {
  const { shop } = useSession();
  const [view, setView] = useDraft("use", none);
  const [reporting, setReporting] = useState<number>();
  const [book, setBook] = useState<ToBook>();
  const need = { x: number(view.x), y: number(view.y), z: number(view.z), hot: number(view.hot) };
  const asked = useDeferredValue(view);
  const { query, first, rows } = usePages(
    keys.usable(asked),
    (offset) =>
      unwrap(
        api.GET("/api/usable", {
          params: {
            query: {
              text: asked.text,
              x: number(asked.x),
              y: number(asked.y),
              z: number(asked.z),
              hot: number(asked.hot),
              only: asked.only,
              offset,
            },
          },
        }),
      ),
    (page) => page.machines,
    (page) => page.found,
  );
  return (
    <Page
      title="Which machine can I use now?"
      lead={shop.name}
      actions={
        <Button main onClick={() => setReporting(0)}>
          Report a fault
        </Button>
      }
    >
      <Asking view={view} setView={setView} />
      <Loaded query={{ ...query, data: first }} what="Looking which machines are free">
        {(list) => (
          <>
            <p className="mb-2 text-dim">
              {list.found} {list.found === 1 ? "machine" : "machines"}
              {list.unknown > 0 && `; of ${list.unknown} more it is not on record`}
            </p>
            {rows.length === 0 ? (
              <Empty title="No machine is like that now.">
                <Button onClick={() => setView({ ...none, only: false })}>Show all machines</Button>
              </Empty>
            ) : (
              <ul className="grid gap-x-6 bg-leaf lg:grid-cols-2">
                {rows.map((m) => (
                  <MachineLine
                    key={m.id}
                    machine={m}
                    onFault={() => setReporting(m.id)}
                    onBook={() => setBook({ machine: m.id, name: m.name, need })}
                  />
                ))}
              </ul>
            )}
            <More query={query} shown={rows.length} found={list.found} what="machines" />
          </>
        )}
      </Loaded>
      {book && <BookPanel key={book.machine} book={book} onClose={() => setBook(undefined)} onOther={setBook} />}
      {reporting !== undefined && <ReportFault machine={reporting} onClose={() => setReporting(undefined)} />}
    </Page>
  );
}

function number(text: string) {
  const n = Number(text.trim().replace(",", "."));
  return Number.isFinite(n) && n > 0 ? n : 0;
}

function Asking({ view, setView }: { view: typeof none; setView: (view: typeof none) => void }) {
  const sizes = [
    ["x", "Width, mm"],
    ["y", "Depth, mm"],
    ["z", "Height, mm"],
    ["hot", "Hotend, °C"],
  ] as const;
  return (
    <div className="mb-4 flex flex-wrap items-end gap-3">
      <div className="w-full sm:w-52">
        <Field label="Name, bay or nozzle" htmlFor="use-text">
          <TextInput id="use-text" value={view.text} onChange={(text) => setView({ ...view, text })} />
        </Field>
      </div>
      <details className="w-full sm:w-auto" open={sizes.some(([key]) => view[key])}>
        <summary className="min-h-11 cursor-pointer py-2 font-semibold">What has to fit: size, temperature</summary>
        <div className="flex flex-wrap items-end gap-3">
          {sizes.map(([key, label]) => (
            <div key={key} className="w-[calc(50%-0.4rem)] sm:w-28">
              <Field label={label} htmlFor={`use-${key}`}>
                <TextInput
                  id={`use-${key}`}
                  inputMode="decimal"
                  value={view[key]}
                  onChange={(v) => setView({ ...view, [key]: v })}
                />
              </Field>
            </div>
          ))}
        </div>
      </details>
      <Check label="Only what can be used now" checked={view.only} onChange={(only) => setView({ ...view, only })} />
    </div>
  );
}

function MachineLine({ machine: m, onFault, onBook }: { machine: Usable; onFault: () => void; onBook: () => void }) {
  return (
    <li className="flex flex-wrap items-start gap-x-4 border-b border-rule px-3 py-2">
      <div className="min-w-52 flex-1">
        <p className="flex flex-wrap items-baseline gap-x-3">
          <b className="text-xl">{m.name}</b>
          <span className="text-dim">{m.bay}</span>
          <State tone={m.taken ? "look" : tones[m.state]}>
            {m.taken ? `taken until ${m.taken.slice(11, 16)}` : m.state}
          </State>
        </p>
        {m.why && <p className="break-words">{m.why}</p>}
        {m.next && (
          <p>
            Taken next: {showWeekday(m.next.slice(0, 10))}, {m.next.slice(11, 16)}
          </p>
        )}
        <p className="text-dim">
          {[
            m.size || "size unknown",
            m.nozzles.join("; ") || "nozzle unknown",
            m.hottest && `up to ${m.hottest}`,
            m.faults > 0 && `${m.faults} ${m.faults === 1 ? "fault is" : "faults are"} open`,
          ]
            .filter(Boolean)
            .join(" · ")}
        </p>
      </div>
      <Button onClick={onBook} aria-label={`Book ${m.name}`}>
        Book
      </Button>
      <Button onClick={onFault} aria-label={`Report a fault of ${m.name}`}>
        Fault
      </Button>
    </li>
  );
}
