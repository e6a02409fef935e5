import { useState } from "react";
import { Link } from "react-router";
import { ApiError, api, type Schemas, take } from "../api/client";
import { useDraft } from "../parts/draft";
import { Button, Fault } from "../parts/form";
import { State } from "../parts/marks";
import { say } from "../parts/toast";
import { useWrite } from "../parts/write";
import { Columns } from "./Columns";
import { FileField } from "./FileField";
import { bytesOf, MAX_BYTES } from "./file";
import { PlanView } from "./PlanView";

type Kept = {
  name: string;
  file: string;
  opened?: Schemas["Opened"];
  mapping: string[];
  corrections: Schemas["Correction"][];
  leaveOut: number[];
  plan?: Schemas["Plan"];
};

const nothing: Kept = { name: "", file: "", mapping: [], corrections: [], leaveOut: [] };

/** File → columns → preview → in. What was chosen survives a reload. */
export function RegisterIn() {
  const [kept, setKept, clear] = useDraft<Kept>("register-in", nothing);
  const [result, setResult] = useState<Schemas["Plan"]>();
  const { write, busy, fault, setFault } = useWrite();

  function open(name: string, file: string) {
    setResult(undefined);
    write(
      () => take(api.POST("/api/register/open", { body: { file } })),
      (opened) => setKept({ ...nothing, name, file, opened, mapping: opened.columns.map((c) => c.target) }),
    );
  }
  function preview(change: Partial<Kept>) {
    const next = { ...kept, ...change };
    const { file, mapping, corrections, leaveOut } = next;
    setKept(next);
    write(
      () => take(api.POST("/api/register/preview", { body: { file, mapping, corrections, leaveOut } })),
      (plan) => setKept({ ...next, plan }),
    );
  }
  async function bringIn() {
    const { file, mapping, corrections, leaveOut, plan } = kept;
    let stale = false;
    await write(
      () =>
        take(
          api.POST("/api/register/bring-in", {
            body: { file, mapping, corrections, leaveOut, fingerprint: plan?.fingerprint },
          }),
        ).catch((e) => {
          stale = e instanceof ApiError && e.status === 409;
          throw e;
        }),
      (done) => {
        setResult(done);
        clear();
        say("Brought in");
      },
    );
    if (stale) preview({});
  }

  if (result)
    return (
      <section className="border-l-4 border-good bg-good-wash px-5 py-4">
        <h2 className="text-2xl font-bold">Brought in</h2>
        <p className="text-lg">
          {result.created} machines new, {result.changed} changed, {result.same} as they were, {result.leftOut} rows
          left out. Every value stands as claimed until somebody looks.
        </p>
        <p className="mt-3 flex gap-4">
          <Link className="inline-flex min-h-11 items-center font-semibold underline underline-offset-4" to="/">
            To the fleet
          </Link>
          <Button onClick={() => setResult(undefined)}>Another file</Button>
        </p>
      </section>
    );
  return (
    <div className="space-y-6">
      {!kept.opened ? (
        <>
          <FileField
            label={busy ? "Reading the file …" : "Choose or drop the CSV"}
            hint="Comma, semicolon or tab; UTF-8; your own headings in the first row"
            most={MAX_BYTES}
            onFile={async (file) => open(file.name, await bytesOf(file))}
          />
          <Fault text={fault} />
        </>
      ) : (
        <>
          <p className="flex flex-wrap items-center gap-4">
            <span>
              <b>{kept.name}</b>: {kept.opened.rows} rows, {kept.opened.columns.length} columns, separated by{" "}
              {{ ",": "commas", ";": "semicolons", "\t": "tabs" }[kept.opened.separator]}
            </span>
            <Button
              onClick={() => {
                clear();
                setFault("");
              }}
            >
              Another file
            </Button>
          </p>
          <Columns
            opened={kept.opened}
            mapping={kept.mapping}
            onChange={(mapping) => setKept({ ...kept, mapping, plan: undefined })}
          />
          {!kept.plan && (
            <Button main disabled={busy} onClick={() => preview({})}>
              {busy ? "Checking every row …" : "Show what it would do"}
            </Button>
          )}
          <Fault text={fault} />
          {kept.plan && (
            <>
              <PlanView
                plan={kept.plan}
                busy={busy}
                onCorrect={(c) =>
                  preview({
                    corrections: [...kept.corrections.filter((k) => k.line !== c.line || k.column !== c.column), c],
                  })
                }
                onLeaveOut={(lines) => preview({ leaveOut: lines })}
                leaveOut={kept.leaveOut}
              />
              <div className="flex flex-wrap items-center gap-4 border-t-2 border-ink pt-4">
                <Button
                  main
                  className="min-h-14 px-8 text-xl"
                  disabled={busy || kept.plan.faulty > 0 || kept.plan.created + kept.plan.changed === 0}
                  onClick={bringIn}
                >
                  {busy ? "Working …" : `Bring in ${kept.plan.created + kept.plan.changed} machines`}
                </Button>
                {kept.plan.faulty > 0 && (
                  <State tone="look">{kept.plan.faulty} faulty rows: mend them or leave them out</State>
                )}
                {kept.plan.created + kept.plan.changed === 0 && kept.plan.faulty === 0 && (
                  <span>The register says all this already: nothing to do.</span>
                )}
              </div>
            </>
          )}
        </>
      )}
    </div>
  );
}
