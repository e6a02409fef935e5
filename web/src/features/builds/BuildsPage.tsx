import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { GradeMark, State } from "../../ui/badges";
import { showDay } from "../../ui/dates";
import { useDraft } from "../../ui/draft";
import { Button, Fault } from "../../ui/form";
import { useGo } from "../../ui/go";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { Panel } from "../../ui/Panel";
import { firmwarePages, SubPlaces } from "../../ui/SubPlaces";
import { useMayWork } from "../../ui/session";
import { Empty, Loaded } from "../../ui/states";
import { alongRows } from "../../ui/table/arrows";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { BuildForm, emptyBuild } from "./BuildForm";

/** Every firmware build on record, and what boards run of which nobody has said which it is. */
export default function BuildsPage() {
  const mayWork = useMayWork();
  const [adding, setAdding] = useState(false);
  const query = useQuery({ queryKey: keys.builds(), queryFn: () => unwrap(api.GET("/api/builds")) });
  return (
    <Page
      title="Firmware builds"
      lead="A build is made once; boards run it from one day to another."
      actions={
        <>
          <LinkButton to="/parts">Parts</LinkButton>
          {mayWork && (
            <Button main onClick={() => setAdding(true)}>
              Record a build
            </Button>
          )}
        </>
      }
    >
      <SubPlaces label="Firmware" pages={firmwarePages} />
      <Loaded query={query} what="Reading the builds">
        {(list) => <Builds list={list} />}
      </Loaded>
      {adding && query.data && <AddBuild features={query.data.features} onClose={() => setAdding(false)} />}
    </Page>
  );
}

function Builds({ list }: { list: Schemas["BuildList"] }) {
  return (
    <>
      {list.builds.length === 0 ? (
        <Empty title="No build is on record yet">
          Record one, then say on a machine&rsquo;s page of builds that its board runs it.
        </Empty>
      ) : (
        // biome-ignore lint/a11y/noStaticElementInteractions: only passes arrow keys on to the links inside
        <div className="relative overflow-x-auto bg-leaf" onKeyDown={alongRows}>
          <table className="w-full text-left">
            <thead>
              <tr className="border-b-2 border-line text-dim">
                <th className="px-3 py-1">Build</th>
                <th className="px-3 py-1">Family</th>
                <th className="px-3 py-1">Version</th>
                <th className="px-3 py-1">Label</th>
                <th className="px-3 py-1">Size, KiB</th>
                <th className="px-3 py-1">Runs on</th>
                <th className="px-3 py-1">Ran on</th>
              </tr>
            </thead>
            <tbody>
              {list.builds.map((b) => (
                <tr key={b.id} className="border-b border-rule">
                  <td className="px-3 py-0.5">
                    <Link
                      data-row
                      to={`/build/${b.id}`}
                      className="inline-flex min-h-10 items-center compact:min-h-9 font-bold underline underline-offset-4"
                    >
                      {b.name}
                    </Link>
                    {list.remarks[b.id]?.map((r) => (
                      <span key={r} className="block">
                        <State tone="bad">Look</State> {r}
                      </span>
                    ))}
                  </td>
                  <td className="px-3">{b.family || <span className="text-dim">unknown</span>}</td>
                  <td className="px-3 font-mono">
                    {b.buildVersion}
                    {b.hostVersion && ` · host ${b.hostVersion}`}
                  </td>
                  <td className="px-3 font-mono">{b.label}</td>
                  <td className="px-3 font-mono">{b.kib ?? ""}</td>
                  <td className="px-3">{b.running}</td>
                  <td className="px-3">{b.ran}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
      {list.anonymous.length > 0 && (
        <section aria-labelledby="anonymous" className="mt-8">
          <h2 id="anonymous" className="mb-1 text-2xl font-bold">
            Not identified
          </h2>
          <p className="mb-2 text-dim">
            Boards run these, and nobody has said which build each is. Builds of one name are not taken for one.
          </p>
          <ul className="grid gap-x-8 bg-leaf sm:grid-cols-2">
            {list.anonymous.map((r) => (
              <li key={r.id} className="flex flex-wrap items-baseline gap-x-3 border-b border-rule px-3 py-1">
                <Link
                  to={`/machine/${r.machineId}/builds`}
                  className="inline-flex min-h-10 items-center compact:min-h-9 font-bold underline underline-offset-4"
                >
                  {r.machine}
                </Link>
                <span>{r.name || "nothing known"}</span>
                {r.grade !== "unknown" && <GradeMark grade={r.grade} />}
                <span className="text-sm text-dim">since {showDay(r.from)}</span>
              </li>
            ))}
          </ul>
        </section>
      )}
    </>
  );
}

function AddBuild({ features, onClose }: { features: readonly string[]; onClose: () => void }) {
  const [build, setBuild, clear] = useDraft("new-build", emptyBuild);
  const { write, busy, fault } = useWrite();
  const go = useGo();
  return (
    <Panel open onOpenChange={onClose} title="Record a build">
      <form
        className="space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          write(
            () => unwrap(api.POST("/api/builds", { body: build })),
            (made) => {
              clear();
              toast(`${build.name} recorded`);
              go(`/build/${made.id}`);
            },
          );
        }}
      >
        <BuildForm build={build} onChange={setBuild} features={features} />
        <Fault text={fault} />
        <Button type="submit" main disabled={busy || !build.name}>
          Save
        </Button>
      </form>
    </Panel>
  );
}
