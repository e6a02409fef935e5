import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams, useSearchParams } from "react-router";
import { api, type Schemas, unwrap } from "../api/client";
import { alongRows } from "../app/keys";
import { useMayWork, useSession } from "../app/session";
import { GradeMark, State } from "../ui/badges";
import { showDay } from "../ui/dates";
import { Button } from "../ui/form";
import { LinkButton } from "../ui/LinkButton";
import { Page } from "../ui/Page";
import { Loaded } from "../ui/states";
import { Who } from "../ui/Who";
import { Planned } from "../work/Planned";
import { AskPanel } from "./AskPanel";
import { CalibrationPanel } from "./CalibrationPanel";
import { Contradictions } from "./Contradictions";
import { EditMachine } from "./EditMachine";
import { FactPanel } from "./FactPanel";
import { MeterPanel } from "./MeterPanel";
import { PartNeeds } from "./PartNeeds";
import { RetirePanel } from "./RetirePanel";
import { UsePanel } from "./UsePanel";

type Sheet = Schemas["Sheet"];

export default function MachinePage() {
  const id = Number(useParams().id);
  const query = useQuery({
    queryKey: ["sheet", id],
    queryFn: () => unwrap(api.GET("/api/machines/{id}", { params: { path: { id } } })),
  });
  return (
    <Loaded query={query} what="Reading the machine's sheet">
      {(sheet) => <SheetView sheet={sheet} />}
    </Loaded>
  );
}

type Open =
  | { panel: "edit" | "meter" | "retire" | "ask" | "use" }
  | { panel: "fact"; key: string }
  | { panel: "calibration"; kind: string; subject?: string };

function SheetView({ sheet }: { sheet: Sheet }) {
  const mayWork = useMayWork();
  const { role } = useSession();
  const [asked, setAsked] = useSearchParams();
  const [open, setOpen] = useState<Open | undefined>(() => linked(asked));
  const [all, setAll] = useState(false);
  const close = () => {
    setOpen(undefined);
    if (asked.size > 0) setAsked({}, { replace: true });
  };
  const at = open?.panel === "fact" ? findFact(sheet, open.key) : undefined;
  const calibration = open?.panel === "calibration" ? pick(sheet, open.kind, open.subject) : [];
  return (
    <Page
      title={sheet.name}
      lead={[
        sheet.bay,
        sheet.maker,
        sheet.serial && `serial ${sheet.serial}`,
        sheet.boughtOn && `bought ${showDay(sheet.boughtOn)}`,
        `in the register since ${showDay(sheet.since)}`,
      ]
        .filter(Boolean)
        .join(" · ")}
      actions={
        <>
          <Button main onClick={() => setOpen({ panel: "ask" })}>
            Does a kit fit?
          </Button>
          <LinkButton to={`/identify?at=${sheet.id}`}>Find out</LinkButton>
          <LinkButton to={`/faults?machine=${sheet.id}&report=1`}>Report a fault</LinkButton>
          {mayWork && <Button onClick={() => setOpen({ panel: "use" })}>Use …</Button>}
          {mayWork && <Button onClick={() => setOpen({ panel: "meter" })}>Read the meter</Button>}
          {mayWork && <Button onClick={() => setOpen({ panel: "edit" })}>Edit</Button>}
          {role === "lead" && (
            <Button onClick={() => setOpen({ panel: "retire" })}>{sheet.retired ? "Bring back" : "Retire"}</Button>
          )}
          <Button onClick={() => print()}>Print</Button>
        </>
      }
    >
      <Banners
        sheet={sheet}
        onTest={mayWork && !sheet.openOrder ? () => setOpen({ panel: "calibration", kind: "protection" }) : undefined}
      />
      <nav aria-label="More of this machine" className="no-print mb-5 flex flex-wrap gap-x-6 border-b border-line">
        {(
          [
            [`/machine/${sheet.id}/positions`, "Positions and heads"],
            [`/machine/${sheet.id}/builds`, "Builds"],
            [`/machine/${sheet.id}/history`, "History"],
            [`/machine/${sheet.id}/wires`, "Wire sheet"],
            [`/compare?a=${sheet.id}`, "Compare it"],
            [`/faults?machine=${sheet.id}`, `Faults${sheet.openFaults ? `: ${sheet.openFaults} open` : ""}`],
            [`/labels?machine=${sheet.id}`, "Label"],
          ] as const
        ).map(([to, label]) => (
          <Link key={to} to={to} className="inline-flex min-h-11 items-center underline underline-offset-4">
            {label}
          </Link>
        ))}
        <a
          href={`/api/record.json?machine=${sheet.id}`}
          download
          className="inline-flex min-h-11 items-center underline underline-offset-4"
        >
          Whole record as JSON
        </a>
      </nav>
      <div className="grid gap-8 xl:grid-cols-[minmax(0,3fr)_minmax(20rem,2fr)]">
        <section aria-labelledby="slots">
          <div className="mb-2 flex flex-wrap items-center justify-between gap-3">
            <h2 id="slots" className="text-2xl font-bold">
              What is in it
            </h2>
            <Button className="no-print" aria-pressed={all} onClick={() => setAll(!all)}>
              {all ? "Hide what is unknown" : "Show what is unknown too"}
            </Button>
          </div>
          <Slots sheet={sheet} all={all} onOpen={(key) => setOpen({ panel: "fact", key })} />
        </section>
        <div className="space-y-8">
          <Missing sheet={sheet} />
          <Calibrations sheet={sheet} onOpen={(kind, subject) => setOpen({ panel: "calibration", kind, subject })} />
          <Next sheet={sheet} />
          <Taken sheet={sheet} />
        </div>
      </div>
      {at && <FactPanel machineId={sheet.id} slot={at.slot} fact={at.fact} onClose={close} />}
      {calibration.length > 0 && <CalibrationPanel sheet={sheet} list={calibration} onClose={close} />}
      {open?.panel === "ask" && <AskPanel machineId={sheet.id} name={sheet.name} onClose={close} />}
      {open?.panel === "edit" && <EditMachine sheet={sheet} onClose={close} />}
      {open?.panel === "meter" && <MeterPanel sheet={sheet} onClose={close} />}
      {open?.panel === "use" && <UsePanel sheet={sheet} onClose={close} />}
      {open?.panel === "retire" && <RetirePanel sheet={sheet} onClose={close} />}
    </Page>
  );
}

/** The panel that a link from another page asks for. */
function linked(asked: URLSearchParams): Open | undefined {
  const key = asked.get("fact");
  const kind = asked.get("calibration");
  if (key) return { panel: "fact", key };
  if (asked.get("meter")) return { panel: "meter" };
  return kind ? { panel: "calibration", kind } : undefined;
}

/** The calibrations of a kind, of the subject that is asked for first; else the first that
 *  is not valid. */
function pick(sheet: Sheet, kind: string, subject?: string) {
  const list = sheet.calibrations.filter((c) => c.kind === kind);
  const first = list.find((c) => c.subject === subject) ?? list.find((c) => c.state !== "valid") ?? list[0];
  return first ? [first, ...list.filter((c) => c !== first)] : [];
}

function findFact(sheet: Sheet, key: string) {
  for (const slot of sheet.slots) {
    const fact = slot.traits.find((t) => t.key === key);
    if (fact) return { slot, fact };
  }
}

function Banners({ sheet, onTest }: { sheet: Sheet; onTest?: () => void }) {
  const mayWork = useMayWork();
  return (
    <div className="mb-6 space-y-3">
      {sheet.retired && (
        <p className="border-l-4 border-dim bg-leaf px-4 py-2">
          <State tone="dim">Retired: {sheet.retired}</State>
        </p>
      )}
      {sheet.use.use !== "in use" && (
        <p
          className={`border-l-4 px-4 py-2 ${sheet.use.use === "out of use" ? "border-bad bg-bad-wash" : "border-look bg-look-wash"}`}
        >
          <State tone={sheet.use.use === "out of use" ? "bad" : "look"}>
            {sheet.use.use === "out of use" ? "Out of use" : "Attended only"}
          </State>
          : {sheet.use.why}. {sheet.use.by}, {showDay(sheet.use.at)}.
        </p>
      )}
      {sheet.notPlaced.length > 0 && (
        <p className="border-l-4 border-look bg-look-wash px-4 py-2">
          <State tone="look">Not placed</State>: {sheet.notPlaced.join(", ")}. Nobody has said what{" "}
          {sheet.notPlaced.length === 1 ? "it serves, so rules take it" : "they serve, so rules take them"} for any
          place.{" "}
          <Link
            className="inline-flex min-h-10 items-center font-semibold underline underline-offset-4"
            to={`/machine/${sheet.id}/positions`}
          >
            Place {sheet.notPlaced.length === 1 ? "it" : "them"}
          </Link>
        </p>
      )}
      <Contradictions list={sheet.against} title="On record here, and cannot be right" />
      <PartNeeds needs={sheet.needs} />
      {sheet.protection.proven ? (
        <p className="border-l-4 border-good bg-good-wash px-4 py-2">
          <State tone="good">Thermal-runaway protection proven</State> <span>{sheet.protection.why}</span>
        </p>
      ) : (
        <div className="flex flex-wrap items-center justify-between gap-3 border-l-4 border-bad bg-bad-wash px-4 py-3">
          <p>
            <State tone="bad">Thermal-runaway protection not proven</State>: {sheet.protection.why}. Not to be left
            running unattended.
          </p>
          {onTest && (
            <Button danger onClick={onTest}>
              Record a test
            </Button>
          )}
        </div>
      )}
      {sheet.openOrder && (
        <p className="border-l-4 border-look bg-look-wash px-4 py-2">
          <State tone="look">Locked out</State>: {sheet.openOrder.kit}, opened by {sheet.openOrder.openedBy},{" "}
          {showDay(sheet.openOrder.openedAt)}.{" "}
          <Link
            className="inline-flex min-h-10 items-center font-semibold underline underline-offset-4"
            to={`/work/${sheet.openOrder.id}`}
          >
            To work order {sheet.openOrder.id}
          </Link>
        </p>
      )}
      <Planned planned={sheet.planned} locked={sheet.openOrder?.id} mayWork={mayWork} />
    </div>
  );
}

function Slots({ sheet, all, onOpen }: { sheet: Sheet; all: boolean; onOpen: (key: string) => void }) {
  const known = (s: Schemas["SlotSheet"]) => s.traits.some((t) => t.grade !== "unknown");
  const shown = sheet.slots.filter((s) => (all && !s.superseded) || known(s));
  if (shown.length === 0)
    return <p className="text-dim">Nothing is known yet. Show what is unknown and take the first reading.</p>;
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: only passes arrow keys on to the buttons inside
    <div className="bg-leaf" onKeyDown={alongRows}>
      {shown.map((slot, i) => (
        <div key={slot.key}>
          {slot.group !== shown[i - 1]?.group && (
            <h3 className="border-b-2 border-line bg-wall pt-3 pb-1 font-bold text-dim">{slot.group}</h3>
          )}
          <div className="grid grid-cols-[8.5rem_minmax(0,1fr)] border-b border-rule">
            <div className="px-3 py-2 font-bold">
              {slot.part ? (
                <Link
                  to={`/part/${slot.part}`}
                  className="inline-flex min-h-8 items-start decoration-1 underline-offset-4 hover:underline"
                  title="This part: tag, supplier, where it has been"
                >
                  {slot.label}
                </Link>
              ) : (
                slot.label
              )}
            </div>
            <ul>
              {slot.traits
                .filter((t) => all || t.grade !== "unknown")
                .map((t) => (
                  <li key={t.key}>
                    <button
                      data-row
                      type="button"
                      onClick={() => onOpen(t.key)}
                      className="grid min-h-12 w-full grid-cols-2 items-start gap-x-3 px-3 py-1.5 text-left leading-snug hover:bg-wash sm:grid-cols-[minmax(0,4fr)_minmax(0,5fr)_minmax(0,7fr)]"
                    >
                      <span className="text-dim">{t.short}</span>
                      <span
                        className={`font-semibold ${t.conflict ? "text-look" : t.grade === "unknown" ? "font-normal text-dim" : ""}`}
                      >
                        {(t.conflict || t.disagreement) && "▲ "}
                        {t.value}
                      </span>
                      <span className="col-span-2 sm:col-span-1">
                        <Evidence fact={t} />
                      </span>
                    </button>
                  </li>
                ))}
            </ul>
          </div>
        </div>
      ))}
    </div>
  );
}

/** How sure the value is: how it was found, who found it and when. */
function Evidence({ fact }: { fact: Schemas["FactSheet"] }) {
  const r = fact.readings.find((x) => x.stands);
  return (
    <>
      <span className="flex min-w-0 items-center gap-1.5">
        <GradeMark grade={fact.grade} word={fact.grade !== "unknown"} />
        {fact.carried && (
          <span className="truncate text-sm text-dim" title={fact.carried}>
            {fact.carried}
          </span>
        )}
        {fact.fromModel && <span className="truncate text-sm text-dim">as its model in the catalogue</span>}
        {r?.how && !fact.carried && (
          <span className="truncate text-sm text-dim" title={r.how}>
            {r.how}
          </span>
        )}
      </span>
      {r && (
        <span className="block text-sm text-dim">
          {showDay(r.at)}, <Who name={r.by} />
          {r.photos.length > 0 && `, ${r.photos.length} ${r.photos.length === 1 ? "photo" : "photos"}`}
        </span>
      )}
    </>
  );
}

function Missing({ sheet }: { sheet: Sheet }) {
  if (sheet.missing.length === 0) return null;
  return (
    <section aria-labelledby="missing">
      <h2 id="missing" className="mb-2 text-2xl font-bold">
        Still missing
      </h2>
      <ul className="border-l-4 border-look bg-look-wash px-4 py-2">
        {sheet.missing.map((m) => (
          <li key={m} className="py-0.5">
            {m}
          </li>
        ))}
      </ul>
    </section>
  );
}

const tones = {
  valid: "good",
  invalid: "look",
  "cannot be told": "look",
  failed: "bad",
  "never recorded": "dim",
} as const;

type Calibration = Schemas["CalibrationSheet"];

/** Subjects of one kind that stand alike are one row: "Motor direction, axis X, axis Y". */
function alike(list: readonly Calibration[]): Calibration[][] {
  const rows: Calibration[][] = [];
  const same = (c: Calibration) => JSON.stringify([c.kind, c.state, c.value, c.at, c.store, c.invalid?.reason]);
  for (const c of list) {
    const row = rows.at(-1);
    if (row?.[0] && same(row[0]) === same(c) && !c.disagreement && !row[0].disagreement) row.push(c);
    else rows.push([c]);
  }
  return rows;
}

function Calibrations({ sheet, onOpen }: { sheet: Sheet; onOpen: (kind: string, subject: string) => void }) {
  return (
    <section aria-labelledby="calibrations">
      <h2 id="calibrations" className="mb-2 text-2xl font-bold">
        Proofs and calibrations
      </h2>
      <ul className="bg-leaf">
        {alike(sheet.calibrations).map((row) => {
          const c = row[0] as Calibration;
          const of = sheet.calibrations.filter((x) => x.kind === c.kind);
          return (
            <li key={c.kind + c.subject} className="border-b border-rule">
              <button
                type="button"
                className="w-full px-3 py-2 text-left hover:bg-wash"
                onClick={() => onOpen(c.kind, c.subject)}
              >
                <span className="flex flex-wrap items-baseline justify-between gap-x-4">
                  <b>
                    {row.length === of.length ? c.title : [c.name, ...row.slice(1).map((x) => x.subject)].join(", ")}
                  </b>
                  {c.state === "valid" && c.disagreement ? (
                    <State tone="look">disagrees</State>
                  ) : (
                    <State tone={tones[c.state]}>{c.state}</State>
                  )}
                </span>
                {c.value && (
                  <span className={`font-mono ${c.state === "invalid" ? "line-through" : ""}`}>{c.value}</span>
                )}
                {c.at && (
                  <span className="block text-sm text-dim">
                    {showDay(c.at)}, <Who name={c.by ?? ""} />
                    {c.store !== "the part itself" && `; kept in: ${c.store}`}
                  </span>
                )}
                {c.invalid && (
                  <span className="block text-sm">
                    {c.invalid.remedy}: {c.invalid.reason}
                  </span>
                )}
                {c.disagreement && (
                  <span className="block text-sm">
                    {c.disagreement.statements.map((s) => `${s.value} ${s.where}`).join(" · ")}
                  </span>
                )}
              </button>
            </li>
          );
        })}
      </ul>
    </section>
  );
}

function Next({ sheet }: { sheet: Sheet }) {
  return (
    <section aria-labelledby="next">
      <h2 id="next" className="mb-2 text-2xl font-bold">
        Maintenance
      </h2>
      <p className="mb-2 text-dim">{sheet.meter ? meterWords(sheet.meter) : "The print-hour meter was never read."}</p>
      <ul className="bg-leaf">
        {sheet.due.slice(0, 5).map((d) => (
          <li key={d.task} className="flex flex-wrap justify-between gap-x-4 border-b border-rule px-3 py-2">
            <span>{d.title}</span>
            <span className="text-dim">
              {d.words}
              {d.on && `, ${showDay(d.on)}`}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function meterWords(m: Schemas["MeterSheet"]): string {
  const wide = m.high - m.low >= 1;
  const now = `${wide ? "about " : ""}${Math.round(m.life)} print hours${wide ? ` (${Math.round(m.low)} to ${Math.round(m.high)})` : ""}`;
  const rate = m.perDay !== undefined ? `, ${m.perDay.toFixed(1)} h a day` : "";
  return `${now}${rate}; meter read ${showDay(m.at)} at ${m.hours} h`;
}

function Taken({ sheet }: { sheet: Sheet }) {
  if (sheet.history.length === 0) return null;
  return (
    <section aria-labelledby="taken">
      <h2 id="taken" className="mb-2 text-2xl font-bold">
        Taken out
      </h2>
      <ul className="bg-leaf">
        {sheet.history.map((h) => (
          <li key={`${h.slot}${h.to}${h.from}`} className="border-b border-rule px-3 py-2">
            {h.slot}:{" "}
            <Link
              to={h.part ? `/part/${h.part}` : `/machine/${sheet.id}/builds`}
              className="font-bold underline underline-offset-4"
            >
              {h.model || (h.part ? "unnamed part" : "unnamed build")}
            </Link>{" "}
            <span className="text-dim">
              {showDay(h.from)} to {showDay(h.to)}
              {h.workOrder ? `, order ${h.workOrder}` : ""}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
