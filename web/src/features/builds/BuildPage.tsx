import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { GradeMark, State } from "../../ui/badges";
import { ChangesOfThing } from "../../ui/Changes";
import { showDay } from "../../ui/dates";
import { useEdit } from "../../ui/draft";
import { EditConflict } from "../../ui/EditConflict";
import { Button, Fault } from "../../ui/form";
import { useGo } from "../../ui/go";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { Panel } from "../../ui/Panel";
import { useMayWork } from "../../ui/session";
import { Loaded } from "../../ui/states";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { BuildFiles } from "./BuildFiles";
import { type Build, BuildForm } from "./BuildForm";
import { ForMachines } from "./ForMachines";

type Sheet = Schemas["BuildSheet"];

/** One build: what it is, for what it is configured, where it runs and ran. */
export default function BuildPage() {
  const id = Number(useParams().id);
  const query = useQuery({
    queryKey: keys.build(id),
    queryFn: () => unwrap(api.GET("/api/builds/{id}", { params: { path: { id } } })),
  });
  return (
    <Loaded query={query} what="Reading the build">
      {(build) => <BuildView build={build} />}
    </Loaded>
  );
}

function BuildView({ build }: { build: Sheet }) {
  const mayWork = useMayWork();
  const [editing, setEditing] = useState(false);
  const label = new Map(build.stated.map((t) => [t.key as string, t.label]));
  const has = (said: string) =>
    Object.entries(build.features)
      .filter(([, v]) => v === said)
      .map(([name]) => name)
      .join(", ");
  const rows: [string, string | number | undefined][] = [
    ["Family", build.family || "unknown"],
    ["Version", build.buildVersion],
    ["Configuration", build.configVersion],
    ["Host's software", build.hostVersion],
    ["API server", build.apiVersion],
    ["Web page", build.pageVersion],
    ["Add-ons", build.addOns],
    ["Processor", build.processor],
    ["Start offset", build.offset === undefined ? undefined : `${build.offset} KiB`],
    ["Label", build.label],
    ["File", build.file],
    ["Size", build.kib ? `${build.kib} KiB` : undefined],
    ["Built", [build.builtBy, build.builtOn && showDay(build.builtOn)].filter(Boolean).join(", ")],
    ["Checksum", build.sha256 && `${build.sha256.slice(0, 16)}…`],
    [
      "Advertised",
      build.advertised && [build.advertised.version, build.advertised.supplier].filter(Boolean).join(", "),
    ],
    ["Has", has("yes")],
    ["Has not", has("no")],
    ["Note", build.note],
  ];
  return (
    <Page
      title={build.name}
      lead={
        <>
          Runs on {build.running} {build.running === 1 ? "board" : "boards"} · changed by {build.changedBy},{" "}
          {showDay(build.changedAt)}
        </>
      }
      actions={
        <>
          <LinkButton to="/builds">All builds</LinkButton>
          {mayWork && build.ran === 0 && <Delete build={build} />}
          {mayWork && <Button onClick={() => setEditing(true)}>Edit</Button>}
        </>
      }
    >
      {build.against.map((a) => (
        <p key={a.machineId + a.mismatch.key} className="mb-2 border-l-4 border-bad bg-bad-wash px-4 py-2">
          <State tone="bad">Built for other parts</State>{" "}
          <Link
            to={`/machine/${a.machineId}/builds`}
            className="inline-flex min-h-10 items-center font-bold underline underline-offset-4 compact:min-h-0"
          >
            {a.machine}
          </Link>
          : {a.mismatch.says}. {a.mismatch.hazard}
        </p>
      ))}
      {build.cautions.map((c) => (
        <p key={c.word + c.line} className="mb-2 border-l-4 border-bad bg-bad-wash px-4 py-2">
          <State tone="bad">Protection taken away</State> {c.file}, line {c.line}: <b className="font-mono">{c.word}</b>
          , {c.says}.
        </p>
      ))}
      {build.pairs.map((p) => (
        <p key={p} className="mb-2 border-l-4 border-bad bg-bad-wash px-4 py-2">
          <State tone="bad">Versions are mixed</State> {p}
        </p>
      ))}
      {build.behind.map((b) => (
        <p key={b} className="mb-2 border-l-4 border-look bg-look-wash px-4 py-2">
          <State tone="look">Behind others</State> {b}
        </p>
      ))}
      {build.differs.map((d) => (
        <p key={d} className="mb-2 border-l-4 border-bad bg-bad-wash px-4 py-2">
          <State tone="bad">Not as advertised</State> {d}
        </p>
      ))}
      <div className="grid gap-8 lg:grid-cols-2">
        <section aria-labelledby="what">
          <h2 id="what" className="mb-2 text-2xl font-bold">
            What it is
          </h2>
          <dl className="bg-leaf">
            {rows
              .filter(([, v]) => v)
              .map(([k, v]) => (
                <div key={k} className="grid grid-cols-[9rem_minmax(0,1fr)] border-b border-rule px-3 py-1.5">
                  <dt className="text-dim">{k}</dt>
                  <dd className="font-semibold">{v}</dd>
                </div>
              ))}
          </dl>
          <h3 className="mt-4 mb-1 text-xl font-bold">Configured for</h3>
          {Object.keys(build.configuredFor).length === 0 ? (
            <p className="text-dim">
              Nothing is recorded of the build itself: what each machine was when it was flashed counts.
            </p>
          ) : (
            <dl className="bg-leaf">
              {Object.entries(build.configuredFor).map(([key, value]) => (
                <div key={key} className="grid grid-cols-2 border-b border-rule px-3 py-1.5">
                  <dt className="text-dim">{label.get(key) ?? key}</dt>
                  <dd className="font-semibold">{value}</dd>
                </div>
              ))}
            </dl>
          )}
        </section>
        <section aria-labelledby="runs">
          <h2 id="runs" className="mb-2 text-2xl font-bold">
            Where it runs and ran
          </h2>
          {build.runs.length === 0 && <p className="text-dim">Nowhere yet.</p>}
          <ul className="bg-leaf">
            {build.runs.map((r) => (
              <li key={r.id} className="flex flex-wrap items-baseline gap-x-3 border-b border-rule px-3 py-1">
                <Link
                  to={`/machine/${r.machineId}/builds`}
                  className="inline-flex min-h-10 items-center compact:min-h-9 font-bold underline underline-offset-4"
                >
                  {r.machine}
                </Link>
                <span>
                  {showDay(r.from)} to {r.to ? showDay(r.to) : "now"}
                </span>
                <GradeMark grade={r.grade} />
              </li>
            ))}
          </ul>
          <BuildFiles build={build} />
          {mayWork && <ForMachines id={build.id} />}
        </section>
      </div>
      {editing && <Edit build={build} onClose={() => setEditing(false)} />}
      <ChangesOfThing of={{ thing: "build", key: String(build.id) }} />
    </Page>
  );
}

function Delete({ build }: { build: Sheet }) {
  const { write, busy, fault } = useWrite();
  const go = useGo();
  return (
    <>
      <Fault text={fault} />
      <Button
        disabled={busy}
        onClick={() =>
          write(
            () => unwrap(api.POST("/api/builds/{id}/delete", { params: { path: { id: build.id } } })),
            () => {
              toast(`${build.name} deleted`);
              go("/builds");
            },
          )
        }
      >
        Delete
      </Button>
    </>
  );
}

function Edit({ build: b, onClose }: { build: Sheet; onClose: () => void }) {
  const { write, busy, fault } = useWrite();
  const edit = useEdit<Build>(`build-${b.id}`, b.version, {
    name: b.name,
    family: b.family,
    buildVersion: b.buildVersion,
    hostVersion: b.hostVersion,
    label: b.label,
    file: b.file,
    kib: b.kib,
    features: b.features,
    configuredFor: b.configuredFor,
    note: b.note,
    configVersion: b.configVersion,
    apiVersion: b.apiVersion,
    pageVersion: b.pageVersion,
    addOns: b.addOns,
    sha256: b.sha256,
    processor: b.processor,
    offset: b.offset,
    builtBy: b.builtBy,
    builtOn: b.builtOn,
    advertised: b.advertised,
  });
  return (
    <Panel open onOpenChange={onClose} title={`Edit ${b.name}`}>
      <form
        className="space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          write(
            () =>
              unwrap(
                api.PUT("/api/builds/{id}", {
                  params: { path: { id: b.id } },
                  body: { version: edit.version, build: edit.value },
                }),
              ),
            () => {
              edit.clear();
              toast(`${edit.value.name} saved; the boards that run it follow`);
              onClose();
            },
          );
        }}
      >
        <EditConflict edit={edit} busy={busy} />
        <BuildForm build={edit.value} onChange={edit.set} features={b.catalogueFeatures} stated={b.stated} />
        <Fault text={fault} />
        <Button type="submit" main disabled={busy || edit.changed}>
          Save
        </Button>
      </form>
    </Panel>
  );
}
