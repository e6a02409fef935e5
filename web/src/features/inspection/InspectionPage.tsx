import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useSearchParams } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { ChooseKits } from "../../ui/ChooseKits";
import { useDraft } from "../../ui/draft";
import { Button, Select } from "../../ui/form";
import { Page } from "../../ui/Page";
import { useMayWork } from "../../ui/session";
import { Empty, Loaded } from "../../ui/states";
import { useJob } from "../../ui/useJob";
import { QuestionCard } from "./QuestionCard";

/** Guided identification: start on a machine or a bay, then one question at a time. */
export default function InspectionPage() {
  const [asked, setAsked] = useSearchParams();
  const machines = asked.getAll("machine").map(Number);
  const kits = asked.getAll("kit");
  const aim = (asked.get("aim") ?? (kits.length > 0 ? "" : "identity")) as Aim;
  if (machines.length === 0)
    return <Start at={asked.get("at") ?? ""} onStart={(m, a, k) => setAsked(query(m, a, k))} />;
  return <Run machines={machines} aim={aim} kits={kits} onStop={() => setAsked({})} />;
}

type Aim = "identity" | "safety" | "";

const aims = [
  ["identity", "What tells it apart: screen, board, marking, drivers, probe, extruder, nozzle"],
  ["", "Only what its parts and the kits below depend on"],
  ["safety", "Safety only"],
] as const;

function query(machines: number[], aim: Aim, kits: string[]) {
  const q = new URLSearchParams();
  for (const m of machines) q.append("machine", String(m));
  q.set("aim", aim);
  for (const k of kits) q.append("kit", k);
  return q;
}

function Start({ at, onStart }: { at: string; onStart: (machines: number[], aim: Aim, kits: string[]) => void }) {
  const fleet = useQuery({ queryKey: keys.fleet(), queryFn: () => unwrap(api.GET("/api/machines")) });
  const kits = useQuery({ queryKey: keys.kits(), queryFn: () => unwrap(api.GET("/api/kits")) });
  const [where, setWhere] = useState(at);
  const [waiting, setWaiting] = useState<string[]>([]);
  const [aim, setAim] = useState<Aim>("identity");
  return (
    <Page title="Inspect" lead="Only what is unknown or weak and matters, in the order in which a machine is opened.">
      <Loaded query={fleet} what="Reading the fleet">
        {(f) => {
          const bays = [...new Set(f.machines.map((m) => m.bay).filter(Boolean))].sort();
          const chosen = where.startsWith("bay ")
            ? f.machines.filter((m) => `bay ${m.bay}` === where).map((m) => m.id)
            : where
              ? [Number(where)]
              : [];
          return (
            <div className="grid gap-10 lg:grid-cols-2">
              <div className="space-y-6">
                <div>
                  <label htmlFor="identify-where" className="mb-1 block text-xl font-bold">
                    Where do you stand?
                  </label>
                  <Select
                    id="identify-where"
                    className="text-xl"
                    value={where}
                    onChange={setWhere}
                    empty="Choose a machine or a bay"
                    options={[
                      ...bays.map((b) => [`bay ${b}`, `The whole bay ${b}`] as const),
                      ...f.machines.map((m) => [String(m.id), `${m.name}${m.bay ? `, ${m.bay}` : ""}`] as const),
                    ]}
                  />
                </div>
                <fieldset>
                  <legend className="text-xl font-bold">What is it for?</legend>
                  <p className="text-dim">Safety is always part of it, and comes first.</p>
                  {aims.map(([key, label]) => (
                    <label key={key} className="flex min-h-11 cursor-pointer items-center gap-3">
                      <input
                        type="radio"
                        name="aim"
                        className="size-6 shrink-0 accent-accent"
                        checked={aim === key}
                        onChange={() => setAim(key)}
                      />
                      {label}
                    </label>
                  ))}
                  <ChooseKits
                    id="identify-kit"
                    label="A kit that may fit"
                    kits={kits.data ?? []}
                    chosen={waiting}
                    onChange={setWaiting}
                  />
                </fieldset>
                <Button
                  main
                  className="min-h-16 w-full text-2xl"
                  disabled={chosen.length === 0}
                  onClick={() => onStart(chosen, aim, waiting)}
                >
                  Start
                </Button>
              </div>
              <Conflicts />
            </div>
          );
        }}
      </Loaded>
    </Page>
  );
}

/** Equally good readings that differ, over the fleet: to be settled by a person. */
function Conflicts() {
  const query = useQuery({ queryKey: keys.conflicts(), queryFn: () => unwrap(api.GET("/api/conflicts")) });
  return (
    <section aria-labelledby="conflicts">
      <h2 id="conflicts" className="mb-2 text-xl font-bold">
        Readings in conflict
      </h2>
      <Loaded query={query} what="Looking for conflicts">
        {({ rows, total }) =>
          rows.length === 0 ? (
            <p className="text-dim">No equally good readings differ.</p>
          ) : (
            <ul className="bg-leaf">
              {rows.map((c) => (
                <li key={`${c.machineId}${c.key}`} className="border-b border-rule">
                  <Link to={`/machine/${c.machineId}?fact=${c.key}`} className="block px-4 py-2 hover:bg-wash">
                    <b>
                      <span aria-hidden="true" className="text-look">
                        ▲{" "}
                      </span>
                      {c.machine}, {c.label}
                    </b>
                    {c.sides.map((side) => (
                      <span key={side} className="block">
                        {side}
                      </span>
                    ))}
                    <span className="underline underline-offset-4">Settle it, with a reason</span>
                  </Link>
                </li>
              ))}
              {total > rows.length && (
                <li className="px-4 py-2 text-dim">and {total - rows.length} more: settle these first</li>
              )}
            </ul>
          )
        }
      </Loaded>
    </section>
  );
}

const idOf = (q: Schemas["AskedQuestion"]) => `${q.machineId} ${q.key}`;

function Run({ machines, aim, kits, onStop }: { machines: number[]; aim: Aim; kits: string[]; onStop: () => void }) {
  useJob();
  const mayWork = useMayWork();
  const [skipped, setSkipped, clear] = useDraft(`identify-${machines.join()}`, { later: [] as string[] });
  const [again, setAgain] = useState(false);
  const work = useQuery({
    queryKey: keys.identify(machines, aim, kits, again),
    queryFn: () =>
      unwrap(api.GET("/api/identify", { params: { query: { machine: machines, aim, kit: kits, again } } })),
  });
  return (
    <Loaded query={work} what="Working out what to ask">
      {(w) => {
        const next = w.questions.filter((q) => !skipped.later.includes(idOf(q)));
        const q = next[0];
        const left = w.questions.length - next.length;
        if (!q)
          return (
            <Page title="Inspect">
              <Empty title={left ? `${left} left for later.` : "Nothing that matters is unknown here."}>
                {w.needs.map((n) => (
                  <p key={n.machineId} className="mt-2">
                    {n.machine}, what its parts need: <b>{n.state}</b>
                    {n.untold > 0 && `, ${n.untold} cannot be told`}
                    {n.unknown.length > 0 && `. Of an unknown model, nothing is asked yet: ${n.unknown.join(", ")}`}.
                  </p>
                ))}
                {left > 0 && <Button onClick={clear}>Ask the ones skipped</Button>}
                {w.notRead.length > 0 && (
                  <div className="mt-4">
                    <p className="font-bold text-ink">Could not be read:</p>
                    <ul className="mb-2 list-disc pl-5">
                      {w.notRead.map((n) => (
                        <li key={idOf(n)}>
                          {machines.length > 1 && `${n.machine}, `}
                          {n.label}
                        </li>
                      ))}
                    </ul>
                    <Button onClick={() => setAgain(true)}>Try these again</Button>
                  </div>
                )}
                <p className="mt-4 flex flex-wrap gap-4">
                  {machines.length === 1 && (
                    <Link className="inline-flex min-h-11 items-center underline" to={`/machine/${machines[0]}`}>
                      To the machine's sheet
                    </Link>
                  )}
                  <button type="button" className="min-h-11 underline" onClick={onStop}>
                    Another machine
                  </button>
                </p>
              </Empty>
            </Page>
          );
        return (
          <>
            <title>{`${q.machine}: ${q.label} · Wardifex`}</title>
            <QuestionCard
              key={idOf(q)}
              q={q}
              left={next.length}
              minutes={w.minutes}
              depths={w.depths}
              against={w.against.filter((c) => c.machineId === q.machineId)}
              fresh={next.filter((x) => x.machineId === q.machineId && x.inspection.key === q.inspection.key).length}
              mayWork={mayWork}
              onLater={() => setSkipped({ later: [...skipped.later, idOf(q)] })}
              onStop={onStop}
            />
          </>
        );
      }}
    </Loaded>
  );
}
