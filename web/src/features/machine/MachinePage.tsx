import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useLocation, useParams, useSearchParams } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { showDay } from "../../ui/dates";
import { Button } from "../../ui/form";
import { isStill } from "../../ui/go";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { useMayWork, useSession } from "../../ui/session";
import { Loaded } from "../../ui/states";
import { AskPanel } from "./AskPanel";
import { CalibrationPanel } from "./CalibrationPanel";
import { EditMachine } from "./EditMachine";
import { FactPanel } from "./FactPanel";
import { MeterPanel } from "./MeterPanel";
import { RetirePanel } from "./RetirePanel";
import { SheetBanners } from "./SheetBanners";
import { SheetCalibrations } from "./SheetCalibrations";
import { SheetMaintenance } from "./SheetMaintenance";
import { SheetMissing } from "./SheetMissing";
import { SheetPhotos } from "./SheetPhotos";
import { SheetPositions } from "./SheetPositions";
import { SheetTaken } from "./SheetTaken";
import { UsePanel } from "./UsePanel";

type Sheet = Schemas["Sheet"];

export default function MachinePage() {
  const id = Number(useParams().id);
  const query = useQuery({
    queryKey: keys.sheet(id),
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
  const { key } = useLocation();
  const [open, setOpen] = useState<Open | undefined>(() => linked(asked));
  const [all, setAll] = useState(false);
  const close = () => {
    setOpen(undefined);
    if (asked.size > 0 && isStill(key)) setAsked({}, { replace: true });
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
          <LinkButton to={`/identify?at=${sheet.id}`}>Inspect</LinkButton>
          <LinkButton to={`/faults?machine=${sheet.id}&report=1`}>Report a fault</LinkButton>
          {mayWork && <Button onClick={() => setOpen({ panel: "use" })}>Set availability</Button>}
          {mayWork && <Button onClick={() => setOpen({ panel: "meter" })}>Read the meter</Button>}
          {mayWork && <Button onClick={() => setOpen({ panel: "edit" })}>Edit</Button>}
          {role === "lead" && (
            <Button onClick={() => setOpen({ panel: "retire" })}>{sheet.retired ? "Bring back" : "Retire"}</Button>
          )}
          <Button onClick={() => print()}>Print</Button>
        </>
      }
    >
      <SheetBanners
        sheet={sheet}
        onTest={mayWork && !sheet.openOrder ? () => setOpen({ panel: "calibration", kind: "protection" }) : undefined}
      />
      <nav aria-label="More of this machine" className="no-print mb-3 flex flex-wrap gap-x-6 border-b border-line">
        {(
          [
            [`/machine/${sheet.id}/positions`, "Positions and heads"],
            [`/machine/${sheet.id}/firmware`, "Firmware"],
            [`/machine/${sheet.id}/builds`, "Builds"],
            [`/machine/${sheet.id}/settings`, "Settings"],
            [`/files?machine=${sheet.id}`, "Files"],
            [`/machine/${sheet.id}/history`, "History"],
            [`/machine/${sheet.id}/wires`, "Wire sheet"],
            [`/compare?a=${sheet.id}`, "Compare it"],
            [`/faults?machine=${sheet.id}`, `Faults${sheet.openFaults ? `: ${sheet.openFaults} open` : ""}`],
            [`/labels?machine=${sheet.id}`, "Label"],
            [`/machine/${sheet.id}/card`, "Calibration card"],
          ] as const
        ).map(([to, label]) => (
          <Link key={to} to={to} className="inline-flex min-h-11 items-center underline underline-offset-4">
            {label}
          </Link>
        ))}
        {mayWork && (
          <a
            href={`/api/record.json?machine=${sheet.id}`}
            download
            className="inline-flex min-h-11 items-center underline underline-offset-4"
          >
            Whole record as JSON
          </a>
        )}
      </nav>
      <div className="grid gap-6 xl:grid-cols-[minmax(0,2fr)_minmax(20rem,1fr)]">
        <section aria-labelledby="slots">
          <div className="mb-2 flex flex-wrap items-center justify-between gap-3">
            <h2 id="slots" className="text-2xl font-bold">
              What is in it
            </h2>
            <Button className="no-print" aria-pressed={all} onClick={() => setAll(!all)}>
              {all ? "Hide unknowns" : "Show unknowns"}
            </Button>
          </div>
          <SheetPositions sheet={sheet} all={all} onOpen={(key) => setOpen({ panel: "fact", key })} />
        </section>
        <div className="space-y-5">
          <SheetPhotos sheet={sheet} />
          <SheetMissing sheet={sheet} />
          <SheetCalibrations
            sheet={sheet}
            onOpen={(kind, subject) => setOpen({ panel: "calibration", kind, subject })}
          />
          <SheetMaintenance sheet={sheet} />
          <SheetTaken sheet={sheet} />
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
