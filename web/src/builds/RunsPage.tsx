import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { api, type Schemas, unwrap } from "../api/client";
import { useMayWork } from "../app/session";
import { GradeMark, gradeWords, State } from "../ui/badges";
import { DayInput } from "../ui/DayInput";
import { showDay } from "../ui/dates";
import { Button, Check, Fault, Field, Select, TextInput } from "../ui/form";
import { LinkButton } from "../ui/LinkButton";
import { Page } from "../ui/Page";
import { Panel } from "../ui/Panel";
import { Loaded } from "../ui/states";
import { toast } from "../ui/toast";
import { useWrite } from "../ui/write";

type Runs = Schemas["MachineRuns"];
type Run = Schemas["RunOnRecord"];

const grades: string[] = gradeWords.map(([grade]) => grade);

/** What the boards of a machine run and ran, and what its parts ask of the build. */
export default function RunsPage() {
  const id = Number(useParams().id);
  const query = useQuery({
    queryKey: ["runs", id],
    queryFn: () => unwrap(api.GET("/api/machines/{id}/runs", { params: { path: { id } } })),
  });
  const builds = useQuery({ queryKey: ["builds"], queryFn: () => unwrap(api.GET("/api/builds")) });
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
          <LinkButton to="/builds">All builds</LinkButton>
          {mayWork && (
            <Button main onClick={() => setStarting(true)}>
              A board runs another build
            </Button>
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
      {starting && <Start id={id} runs={runs} builds={builds} onClose={() => setStarting(false)} />}
      {correcting && <Correct id={id} run={correcting} builds={builds} onClose={() => setCorrecting(undefined)} />}
    </Page>
  );
}

type Chosen = { build: string; grade: string; from: string };

function Which({
  value,
  onChange,
  builds,
}: {
  value: Chosen;
  onChange: (value: Chosen) => void;
  builds: readonly Schemas["BuildOnRecord"][];
}) {
  return (
    <>
      <Field label="Build" htmlFor="run-build">
        <Select
          id="run-build"
          value={value.build}
          onChange={(build) => onChange({ ...value, build })}
          options={builds.map((b) => [String(b.id), b.name] as const)}
          empty="Not known which"
        />
      </Field>
      <Field label="How sure" htmlFor="run-grade">
        <Select
          id="run-grade"
          value={value.grade}
          onChange={(grade) => onChange({ ...value, grade })}
          options={grades}
        />
      </Field>
      <Field label="From" htmlFor="run-from" hint="Today when left empty">
        <DayInput id="run-from" value={value.from} onChange={(from) => onChange({ ...value, from })} />
      </Field>
    </>
  );
}

function Start({
  id,
  runs,
  builds,
  onClose,
}: {
  id: number;
  runs: Runs;
  builds: readonly Schemas["BuildOnRecord"][];
  onClose: () => void;
}) {
  const [on, setOn] = useState(runs.boards[0]?.slot ?? "");
  const [which, setWhich] = useState<Chosen>({ build: "", grade: "observed", from: "" });
  const [how, setHow] = useState("");
  const [madeFor, setMadeFor] = useState(true);
  const { write, busy, fault } = useWrite();
  const boards = [
    ...runs.boards.map((b) => [b.slot, b.model ? `${b.label}: ${b.model}` : b.label] as const),
    ...(runs.heads.length > 1 ? runs.heads.map((n) => [`head ${n}`, `Carried by head ${n}`] as const) : []),
  ];
  const head = on.startsWith("head ") ? Number(on.slice(5)) : undefined;
  return (
    <Panel open onOpenChange={onClose} title="A board runs another build">
      <p className="mb-3 text-dim">
        What it ran before ends on that day, and what depends on the build is no longer valid: protection, directions,
        and every value in the stored settings. For an upgrade, open a work order instead.
      </p>
      <form
        className="space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          write(
            () =>
              unwrap(
                api.POST("/api/machines/{id}/runs", {
                  params: { path: { id } },
                  body: {
                    board: head ? (runs.boards[0]?.slot ?? "") : on,
                    head,
                    build: Number(which.build) || undefined,
                    from: which.from,
                    grade: which.grade as "observed",
                    how,
                    madeFor,
                  },
                }),
              ),
            () => {
              toast("Recorded: the board runs another build");
              onClose();
            },
          );
        }}
      >
        <div className="grid gap-3 sm:grid-cols-2">
          <Field label="On" htmlFor="run-on">
            <Select id="run-on" value={on} onChange={setOn} options={boards} />
          </Field>
          <Which value={which} onChange={setWhich} builds={builds} />
        </div>
        <Field label="How it is known" htmlFor="run-how" hint="Flashed by me, information screen, M115 …">
          <TextInput id="run-how" value={how} onChange={setHow} required />
        </Field>
        <Check label="It was made for this machine as it is" checked={madeFor} onChange={setMadeFor} />
        <Fault text={fault} />
        <Button type="submit" main disabled={busy || !how}>
          Save
        </Button>
      </form>
    </Panel>
  );
}

function Correct({
  id,
  run,
  builds,
  onClose,
}: {
  id: number;
  run: Run;
  builds: readonly Schemas["BuildOnRecord"][];
  onClose: () => void;
}) {
  const [which, setWhich] = useState<Chosen>({
    build: run.buildId ? String(run.buildId) : "",
    grade: run.grade === "unknown" ? "observed" : run.grade,
    from: "",
  });
  const [to, setTo] = useState("");
  const { write, busy, fault } = useWrite();
  return (
    <Panel open onOpenChange={onClose} title="Identify or correct">
      <p className="mb-3 text-dim">
        {run.name || "Nothing is known of it"}, {showDay(run.from)} to {run.to ? showDay(run.to) : "now"}. The record
        was wrong or incomplete; the machine is as it was, so nothing becomes invalid.
      </p>
      <form
        className="space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          write(
            () =>
              unwrap(
                api.PUT("/api/machines/{id}/runs/{run}", {
                  params: { path: { id, run: run.id } },
                  body: {
                    build: Number(which.build) || undefined,
                    grade: which.grade as "observed",
                    from: which.from || run.from,
                    to: to || run.to,
                  },
                }),
              ),
            () => {
              toast("Saved");
              onClose();
            },
          );
        }}
      >
        <div className="grid gap-3 sm:grid-cols-2">
          <Which value={which} onChange={setWhich} builds={builds} />
          {run.to && (
            <Field label="To" htmlFor="run-to" hint={`${showDay(run.to)} when left empty`}>
              <DayInput id="run-to" value={to} onChange={setTo} />
            </Field>
          )}
        </div>
        <Fault text={fault} />
        <Button type="submit" main disabled={busy}>
          Save
        </Button>
      </form>
    </Panel>
  );
}
