import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useSearchParams } from "react-router";
import { api, type Schemas, unwrap } from "../api/client";
import { useMayWork } from "../app/session";
import { State } from "../ui/badges";
import { showDay } from "../ui/dates";
import { Button, Check, Fault, Field, Select, TextArea } from "../ui/form";
import { Page } from "../ui/Page";
import { Panel } from "../ui/Panel";
import { PhotoStrip } from "../ui/PhotoStrip";
import { Empty, Loaded } from "../ui/states";
import { toast } from "../ui/toast";
import { useWrite } from "../ui/write";
import { Causes } from "./Causes";
import { ReportFault } from "./ReportFault";

/** Faults as people reported them, with the usual causes and the check for each. */
export default function FaultsPage() {
  const [asked, setAsked] = useSearchParams();
  const machine = Number(asked.get("machine") ?? 0);
  const [reporting, setReporting] = useState(asked.has("report"));
  const [closed, setClosed] = useState(false);
  const query = useQuery({
    queryKey: ["faults", machine],
    queryFn: () => unwrap(api.GET("/api/faults", { params: { query: { machine } } })),
  });
  const fleet = useQuery({ queryKey: ["fleet"], queryFn: () => unwrap(api.GET("/api/machines")) });
  const name = fleet.data?.machines.find((m) => m.id === machine)?.name;
  return (
    <Page
      title={name ? `Faults of ${name}` : "Faults"}
      lead="Anybody may report one; a technician answers it."
      actions={
        <Button main onClick={() => setReporting(true)}>
          Report a fault
        </Button>
      }
    >
      <Loaded query={query} what="Reading the faults">
        {(book) => {
          const shown = book.faults.filter((f) => closed || !f.closedAt);
          return (
            <>
              <div className="mb-3 flex flex-wrap items-center gap-x-6">
                <Check label="Answered ones too" checked={closed} onChange={setClosed} />
                <Select
                  aria-label="Machine"
                  className="max-w-60"
                  value={machine ? String(machine) : ""}
                  onChange={(v) => setAsked(v ? { machine: v } : {}, { replace: true })}
                  empty="Every machine"
                  options={(fleet.data?.machines ?? []).map((m) => [String(m.id), m.name] as const)}
                />
              </div>
              {shown.length === 0 ? (
                <Empty title="No fault is open.">
                  <p>Whoever sees one reports it: words are enough, a photo helps.</p>
                </Empty>
              ) : (
                <ul className="max-w-5xl space-y-4">
                  {shown.map((f) => (
                    <FaultView key={f.id} fault={f} symptoms={book.symptoms} />
                  ))}
                </ul>
              )}
              {reporting && (
                <ReportFault
                  machine={machine}
                  machines={fleet.data?.machines ?? []}
                  onClose={() => {
                    setReporting(false);
                    if (asked.has("report")) setAsked(machine ? { machine: String(machine) } : {}, { replace: true });
                  }}
                />
              )}
            </>
          );
        }}
      </Loaded>
    </Page>
  );
}

function FaultView({
  fault: f,
  symptoms,
}: {
  fault: Schemas["ReportedFault"];
  symptoms: readonly Schemas["Symptom"][];
}) {
  const mayWork = useMayWork();
  const [answering, setAnswering] = useState(false);
  const { write } = useWrite();
  const symptom = symptoms.find((s) => s.key === f.symptom);
  return (
    <li className={`border-l-4 bg-leaf px-5 py-3 ${f.closedAt ? "border-line" : "border-bad"}`}>
      <div className="flex flex-wrap items-baseline justify-between gap-x-4">
        <h2 className="text-xl font-bold">
          <Link to={`/machine/${f.machineId}`} className="underline underline-offset-4">
            {f.machine}
          </Link>
          {symptom && <span className="font-normal">: {symptom.title.toLowerCase()}</span>}
        </h2>
        <State tone={f.closedAt ? "good" : "bad"}>{f.closedAt ? "answered" : "open"}</State>
      </div>
      <p className="my-1 text-lg whitespace-pre-line">{f.words}</p>
      <p className="text-dim">
        {f.by}, {showDay(f.at)}
      </p>
      <div className="mt-2">
        <PhotoStrip ids={f.photos} of="this fault" postTo={`/api/faults/${f.id}/photos`} />
      </div>
      {f.closedAt ? (
        <p className="mt-2 border-t border-rule pt-2">
          <b>{f.answer}</b>{" "}
          <span className="text-dim">
            {f.closedBy}, {showDay(f.closedAt)}
          </span>
          {mayWork && (
            <button
              type="button"
              className="ml-3 min-h-10 underline underline-offset-4"
              onClick={() =>
                write(() =>
                  unwrap(
                    api.POST("/api/faults/{id}/close", {
                      params: { path: { id: f.id } },
                      body: { version: f.version, answer: "" },
                    }),
                  ),
                )
              }
            >
              Open it again
            </button>
          )}
        </p>
      ) : (
        <>
          {symptom && (
            <details className="mt-2">
              <summary className="min-h-11 cursor-pointer font-semibold">Usual causes and checks</summary>
              <Causes symptom={symptom} />
            </details>
          )}
          {mayWork && (
            <div className="mt-2 flex flex-wrap gap-2">
              <Button onClick={() => setAnswering(true)}>Answer it</Button>
            </div>
          )}
        </>
      )}
      {answering && <AnswerFault fault={f} symptom={symptom} onClose={() => setAnswering(false)} />}
    </li>
  );
}

function AnswerFault({
  fault: f,
  symptom,
  onClose,
}: {
  fault: Schemas["ReportedFault"];
  symptom?: Schemas["Symptom"];
  onClose: () => void;
}) {
  const [answer, setAnswer] = useState("");
  const { write, busy, fault } = useWrite();
  return (
    <Panel open onOpenChange={onClose} title={`${f.machine}: what was it?`}>
      <p className="mb-4 text-lg">{f.words}</p>
      {symptom && <Causes symptom={symptom} />}
      <form
        className="mt-4 space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          write(
            () =>
              unwrap(
                api.POST("/api/faults/{id}/close", {
                  params: { path: { id: f.id } },
                  body: { version: f.version, answer },
                }),
              ),
            () => {
              toast("Answered");
              onClose();
            },
          );
        }}
      >
        <Field label="What it was and what was done" htmlFor="fault-answer">
          <TextArea id="fault-answer" value={answer} onChange={setAnswer} required autoFocus />
        </Field>
        <Fault text={fault} />
        <Button type="submit" main disabled={busy}>
          Close the fault
        </Button>
      </form>
    </Panel>
  );
}
