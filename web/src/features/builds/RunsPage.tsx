import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { GradeMark, State } from "../../ui/badges";
import { showDay } from "../../ui/dates";
import { Button } from "../../ui/form";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { useMayWork } from "../../ui/session";
import { Loaded } from "../../ui/states";
import { Correct, type Run } from "./CorrectRun";
import { FlashOrder } from "./FlashOrder";
import { Start } from "./StartRun";

export type Runs = Schemas["MachineRuns"];

/** What the boards of a machine run and ran, and what its parts ask of the build. */
export default function RunsPage() {
  const id = Number(useParams().id);
  const query = useQuery({
    queryKey: keys.runs(id),
    queryFn: () => unwrap(api.GET("/api/machines/{id}/runs", { params: { path: { id } } })),
  });
  const builds = useQuery({ queryKey: keys.builds(), queryFn: () => unwrap(api.GET("/api/builds")) });
  return (
    <Loaded query={query} what="Reading what its boards run">
      {(runs) => (
        <Loaded query={builds} what="Reading the builds">
          {(list) => <RunsView id={id} runs={runs} builds={list.builds} />}
        </Loaded>
      )}
    </Loaded>
  );
}

function RunsView({ id, runs, builds }: { id: number; runs: Runs; builds: readonly Schemas["BuildOnRecord"][] }) {
  const mayWork = useMayWork();
  const [starting, setStarting] = useState(false);
  const [flashing, setFlashing] = useState(false);
  const [correcting, setCorrecting] = useState<Run>();
  const board = (slot: string) => runs.boards.find((b) => b.slot === slot)?.label ?? slot;
  const against = new Map(runs.against.map((a) => [a.key as string, a]));
  return (
    <Page
      title={`Builds of ${runs.machine}`}
      lead="What its boards run and ran, and what its parts ask of the build."
      actions={
        <>
          <LinkButton to={`/machine/${id}`}>To its sheet</LinkButton>
          <LinkButton to={`/machine/${id}/firmware`}>Firmware</LinkButton>
          <LinkButton to="/builds">All builds</LinkButton>
          {mayWork && (
            <>
              <Button onClick={() => setStarting(true)}>A board runs another build</Button>
              <Button main onClick={() => setFlashing(true)}>
                Flash another build
              </Button>
            </>
          )}
        </>
      }
    >
      {runs.against.map((a) => (
        <p key={a.key} className="mb-2 border-l-4 border-bad bg-bad-wash px-4 py-2">
          <State tone="bad">Built for other parts</State> {a.says}
          {a.leans && ", as far as is claimed"}. {a.hazard}
        </p>
      ))}
      <div className="grid gap-8 lg:grid-cols-2">
        <section aria-labelledby="runs">
          <h2 id="runs" className="mb-2 text-2xl font-bold">
            What its boards run
          </h2>
          {runs.runs.length === 0 && <p className="text-dim">Nothing is on record yet.</p>}
          <ul className="bg-leaf">
            {runs.runs.map((r) => (
              <li key={r.id} className="border-b border-rule px-3 py-2">
                <div className="flex flex-wrap items-baseline gap-x-3">
                  <b>{board(r.board)}</b>
                  {r.buildId ? (
                    <Link
                      to={`/build/${r.buildId}`}
                      className="inline-flex min-h-10 items-center font-bold underline underline-offset-4 compact:min-h-0"
                    >
                      {r.name}
                    </Link>
                  ) : (
                    <span>{r.name || "nothing known"}</span>
                  )}
                  {r.grade !== "unknown" && <GradeMark grade={r.grade} />}
                  {!r.to && <State tone="good">runs</State>}
                </div>
                <div className="flex flex-wrap items-baseline gap-x-3 text-sm text-dim">
                  <span>
                    {showDay(r.from)} to {r.to ? showDay(r.to) : "now"}
                    {r.by && `, ${r.by}`}
                    {r.why && `, ${r.why}`}
                    {!r.buildId && "; nobody has said which build it is"}
                  </span>
                  {mayWork && (
                    <button
                      type="button"
                      className="min-h-10 underline underline-offset-4"
                      onClick={() => setCorrecting(r)}
                    >
                      Identify or correct
                    </button>
                  )}
                </div>
              </li>
            ))}
          </ul>
        </section>
        <section aria-labelledby="asks">
          <h2 id="asks" className="mb-2 text-2xl font-bold">
            What its parts ask of the build
          </h2>
          <table className="w-full bg-leaf text-left">
            <thead>
              <tr className="border-b-2 border-line text-dim">
                <th className="px-3 py-1">Of</th>
                <th className="px-3 py-1">Fitted</th>
                <th className="px-3 py-1">Configured for</th>
              </tr>
            </thead>
            <tbody>
              {runs.asks.map((a) => (
                <tr key={a.key} className="border-b border-rule">
                  <td className="px-3 py-1 text-dim">{a.label}</td>
                  <td className="px-3 py-1 font-semibold">
                    <Link to={`/machine/${id}?fact=${a.key}`} className="underline underline-offset-4">
                      {a.value}
                    </Link>{" "}
                    <GradeMark grade={a.grade} />
                  </td>
                  <td className="px-3 py-1">
                    {against.has(a.key) ? (
                      <State tone="bad">{against.get(a.key)?.configured}</State>
                    ) : (
                      (runs.configured[a.key] ?? <span className="text-dim">unknown</span>)
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
      </div>
      {flashing && <FlashOrder id={id} onClose={() => setFlashing(false)} />}
      {starting && <Start id={id} runs={runs} builds={builds} onClose={() => setStarting(false)} />}
      {correcting && <Correct id={id} run={correcting} builds={builds} onClose={() => setCorrecting(undefined)} />}
    </Page>
  );
}
