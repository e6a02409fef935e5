import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { ReportFault } from "../../ui/faults/ReportFault";
import { Button, Select } from "../../ui/form";
import { Page } from "../../ui/Page";
import { Panel } from "../../ui/Panel";
import { More, PAGE, usePages } from "../../ui/pages";
import { SubPlaces, workPages } from "../../ui/SubPlaces";
import { useMayWork } from "../../ui/session";
import { Empty, Loaded } from "../../ui/states";
import { useArrangement } from "../../ui/table/useArrangement";
import { FaultTable } from "./FaultTable";
import { FaultView } from "./FaultView";

const shows = [
  ["open", "Open"],
  ["mine", "Mine"],
  ["closed", "Closed"],
] as const;
/** So few of one machine are shown whole. */
const FEW = 3;
type Show = (typeof shows)[number][0];

/** Faults as people reported them, with the usual causes and the check for each. */
export default function FaultsPage() {
  const [asked, setAsked] = useSearchParams();
  const mayWork = useMayWork();
  const machine = Number(asked.get("machine") ?? 0);
  const show = (asked.get("show") as Show | null) ?? "open";
  const opened = Number(asked.get("fault") ?? 0);
  const [how, arrange] = useArrangement({ sort: "at", down: true });
  const [reporting, setReporting] = useState(asked.has("report"));
  const { query, first, rows } = usePages(
    keys.faults(machine, show, "pages"),
    (offset) => unwrap(api.GET("/api/faults", { params: { query: { machine, show, offset, limit: PAGE } } })),
    (p) => p.faults,
    (p) => p.found,
  );
  const book = { symptoms: [], found: 0, ...first, faults: rows };
  const fleet = useQuery({ queryKey: keys.fleet(), queryFn: () => unwrap(api.GET("/api/machines")) });
  const name = fleet.data?.machines.find((m) => m.id === machine)?.name;
  const ask = (change: { machine?: string; show?: Show }) => {
    const next = { machine: machine ? String(machine) : "", show, ...change };
    setAsked(
      { ...(next.machine && { machine: next.machine }), ...(next.show !== "open" && { show: next.show }) },
      { replace: true },
    );
  };
  const open = (id: number) =>
    setAsked((before) => {
      const out = new URLSearchParams(before);
      if (id) out.set("fault", String(id));
      else out.delete("fault");
      return out;
    });
  return (
    <Page
      title={name ? `Faults of ${name}` : "Faults"}
      actions={
        <Button main onClick={() => setReporting(true)}>
          Report a fault
        </Button>
      }
    >
      {mayWork && <SubPlaces label="Work" pages={workPages} />}
      <div className="mb-3 flex flex-wrap items-center gap-x-6 gap-y-2">
        <fieldset className="flex">
          <legend className="sr-only">Which faults</legend>
          {shows.map(([key, label]) => (
            <Button
              key={key}
              aria-pressed={show === key}
              className={show === key ? "border-accent bg-wash" : ""}
              onClick={() => ask({ show: key })}
            >
              {label}
            </Button>
          ))}
        </fieldset>
        <Select
          aria-label="Machine"
          className="max-w-60"
          value={machine ? String(machine) : ""}
          onChange={(v) => ask({ machine: v })}
          empty="Every machine"
          options={(fleet.data?.machines ?? []).map((m) => [String(m.id), m.name] as const)}
        />
      </div>
      <Loaded query={query} what="Reading the faults">
        {() =>
          book.faults.length === 0 ? (
            <Empty title={{ open: "No fault is open.", mine: "None is yours.", closed: "None was closed yet." }[show]}>
              <p>Whoever sees one reports it: one tap is enough, a photo helps.</p>
            </Empty>
          ) : machine > 0 && book.faults.length <= FEW ? (
            <div className="max-w-5xl space-y-6">
              {book.faults.map((f) => (
                <FaultView key={f.id} fault={f} symptoms={book.symptoms} />
              ))}
            </div>
          ) : (
            <>
              <FaultTable book={book} how={how} onArrange={arrange} onOpen={open} />
              <More query={query} shown={rows.length} found={book.found} what="faults" />
              <Opened fault={book.faults.find((f) => f.id === opened)} book={book} onClose={() => open(0)} />
            </>
          )
        }
      </Loaded>
      {reporting && (
        <ReportFault
          machine={machine}
          onClose={() => {
            setReporting(false);
            if (asked.has("report")) ask({});
          }}
        />
      )}
    </Page>
  );
}

function Opened({
  fault,
  book,
  onClose,
}: {
  fault?: Schemas["ReportedFault"];
  book: Schemas["FaultBook"];
  onClose: () => void;
}) {
  if (!fault) return null;
  return (
    <Panel open onOpenChange={onClose} title={`Fault ${fault.id}`}>
      <FaultView fault={fault} symptoms={book.symptoms} />
    </Panel>
  );
}
