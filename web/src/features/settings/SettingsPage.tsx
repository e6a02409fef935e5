import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { State } from "../../ui/badges";
import { DriftedValue } from "../../ui/DriftedValue";
import { showDay } from "../../ui/dates";
import { Button, Fault } from "../../ui/form";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { useMayWork } from "../../ui/session";
import { Empty, Loaded } from "../../ui/states";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { AddSettings } from "./AddSettings";

type Settings = Schemas["MachineSettings"];

/** A machine's settings in all the places where one value can hide, and where they disagree. */
export default function SettingsPage() {
  const id = Number(useParams().id);
  const query = useQuery({
    queryKey: keys.machineSettings(id),
    queryFn: () => unwrap(api.GET("/api/machines/{id}/settings", { params: { path: { id } } })),
  });
  return (
    <Loaded query={query} what="Reading the settings and holding them against each other">
      {(settings) => <SettingsView id={id} settings={settings} />}
    </Loaded>
  );
}

function SettingsView({ id, settings: s }: { id: number; settings: Settings }) {
  const mayWork = useMayWork();
  const [adding, setAdding] = useState(false);
  return (
    <Page
      title={`Settings of ${s.machine}`}
      lead="One value can stand in the build, in the stored settings and in the start code of files. Here they are held against each other."
      actions={
        <>
          <LinkButton to={`/machine/${id}`}>To its sheet</LinkButton>
          <LinkButton to={`/machine/${id}/firmware`}>Firmware</LinkButton>
          {mayWork && (
            <Button main onClick={() => setAdding(true)}>
              Add settings
            </Button>
          )}
        </>
      }
    >
      {s.cautions.map((c) => (
        <p key={c.word + c.line} className="mb-2">
          <State tone="bad">Protection taken away</State> {c.file}, line {c.line}: <b className="font-mono">{c.word}</b>
          , {c.says}.
        </p>
      ))}
      <section aria-labelledby="values" className="mb-8">
        <h2 id="values" className="mb-2 text-2xl font-bold">
          What disagrees
        </h2>
        {s.values.length === 0 ? (
          <p>
            <State tone={s.files.length ? "good" : "dim"}>
              {s.files.length
                ? "Nothing disagrees in what is known of these settings."
                : "Nothing can be compared: no settings are on record."}
            </State>
          </p>
        ) : (
          s.values.map((v) => <DriftedValue key={`${v.kind}${v.subject}${v.title}`} value={v} />)
        )}
      </section>
      <section aria-labelledby="places">
        <h2 id="places" className="mb-2 text-2xl font-bold">
          Where its settings live
        </h2>
        {s.files.length === 0 && (
          <Empty title="No settings are on record.">
            Send M503 and add the reply, or add the configuration file, the card&rsquo;s file, or the slicer&rsquo;s
            start code.
          </Empty>
        )}
        <ul className="bg-leaf">
          {s.files.map((f) => (
            <FileLine key={f.id} machine={id} file={f} />
          ))}
        </ul>
      </section>
      {adding && <AddSettings machine={id} settings={s} onClose={() => setAdding(false)} />}
    </Page>
  );
}

function FileLine({ machine, file: f }: { machine: number; file: Schemas["SettingsOnRecord"] }) {
  const mayWork = useMayWork();
  const { write, busy, fault } = useWrite();
  return (
    <li className="flex flex-wrap items-start gap-x-4 border-b border-rule px-3 py-2">
      <div className="min-w-64 flex-1">
        <p className="flex flex-wrap items-baseline gap-x-3">
          {mayWork ? (
            <Link
              to={`/settings-file/${f.id}`}
              className="inline-flex min-h-10 items-center text-lg font-bold underline underline-offset-4 compact:min-h-0"
            >
              {f.name}
            </Link>
          ) : (
            <b className="text-lg">{f.name}</b>
          )}
          <span>{f.place}</span>
          <span className="text-dim">
            {f.values} {f.values === 1 ? "value is" : "values are"} known · taken {showDay(f.takenAt)}, {f.addedBy}
          </span>
        </p>
        {f.fault && <State tone="bad">{f.fault}</State>}
        {f.called && <p className="text-dim">A script that is called: what it sets holds until it is set again</p>}
        {f.secrets > 0 && (
          <p>
            {f.secrets} {f.secrets === 1 ? "secret is" : "secrets are"} masked; the file that holds them: {f.original}
          </p>
        )}
        {f.twice.map((t) => (
          <p key={t}>
            <State tone="look">Set twice</State> {t}
          </p>
        ))}
        {f.faults.length > 0 && (
          <details>
            <summary className="min-h-10 cursor-pointer py-1">
              {f.faults.length} {f.faults.length === 1 ? "line" : "lines"} could not be read or decided
            </summary>
            <ul>
              {f.faults.map((x) => (
                <li key={x.line + x.says}>
                  line {x.line}: {x.says}
                </li>
              ))}
            </ul>
          </details>
        )}
        {f.card.length > 0 && (
          <p>
            It belongs to the card:{" "}
            {f.card.map((c, i) => (
              <span key={c.machineId + c.from}>
                {i > 0 && "; "}
                {c.machineId === machine ? <b>{c.machine}</b> : c.machine} {showDay(c.from)} to{" "}
                {c.to ? showDay(c.to) : "now"}
              </span>
            ))}
          </p>
        )}
        <Fault text={fault} />
      </div>
      {mayWork && (
        <Button
          disabled={busy}
          aria-label={`Remove ${f.name}`}
          onClick={() =>
            write(
              () => unwrap(api.POST("/api/settings-files/{id}/end", { params: { path: { id: f.id } } })),
              () =>
                toast(`${f.name} removed`, () =>
                  write(() => unwrap(api.POST("/api/settings-files/{id}/keep", { params: { path: { id: f.id } } }))),
                ),
            )
          }
        >
          Remove
        </Button>
      )}
    </li>
  );
}
