import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { State } from "../../ui/badges";
import { Button, Fault, Select } from "../../ui/form";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { WorkPanel } from "../../ui/plan/WorkPanel";
import { dayPages, SubPlaces } from "../../ui/SubPlaces";
import { useRole } from "../../ui/session";
import { Empty, Loaded } from "../../ui/states";
import { useInAddress } from "../../ui/table/useInAddress";
import { useWrite } from "../../ui/write";
import { Blocked } from "./Blocked";
import { Run } from "./Run";
import { WorkGroups } from "./WorkGroups";

/** How often a run is looked after, ms. */
const AGAIN = 700;

/** The weeks ahead: what is planned, what cannot be, and the planner. */
export default function WeeksPage() {
  const role = useRole();
  const [view, setView] = useInAddress({ by: "week", show: "force" });
  const [open, setOpen] = useState<Schemas["ShownWork"]>();
  const { write, busy, fault } = useWrite();
  const query = useQuery({
    queryKey: keys.roster(),
    queryFn: () => unwrap(api.GET("/api/roster")),
    refetchInterval: (q) => (running(q.state.data?.run) ? AGAIN : false),
  });
  const plan = query.data;
  const ask = (keep: boolean) =>
    write(
      () => unwrap(api.POST("/api/roster/runs", { body: { keep } })),
      () => setView({ show: "offer" }),
    );
  const isRunning = running(plan?.run);
  return (
    <Page
      title="Weeks ahead"
      lead={plan && `${plan.work.length} pieces of work are planned, for ${plan.people.length} who told their shifts`}
      actions={
        role === "lead" && (
          <>
            <Button main disabled={busy || isRunning} onClick={() => ask(false)}>
              Plan the weeks
            </Button>
            {(plan?.work.length ?? 0) > 0 && (
              <Button disabled={busy || isRunning} onClick={() => ask(true)}>
                Adjust with few moves
              </Button>
            )}
            <LinkButton to="/planning">How it plans</LinkButton>
          </>
        )
      }
    >
      <SubPlaces label="Days" pages={dayPages} />
      <Fault text={fault} />
      <Loaded query={query} what="Reading what is planned">
        {(p) => (
          <>
            {p.run && <Run plan={p} show={view.show} onShow={(show) => setView({ show })} />}
            <Floors floors={p.floors} />
            <Lacks lacks={p.lacks} />
            <div className="mb-2 flex flex-wrap items-center gap-3">
              <label htmlFor="weeks-by" className="font-semibold">
                Grouped by
              </label>
              <div className="w-48">
                <Select
                  id="weeks-by"
                  value={view.by}
                  onChange={(by) => setView({ by })}
                  options={[
                    ["week", "week"],
                    ["task", "task"],
                    ["machine", "machine"],
                    ["person", "person"],
                  ]}
                />
              </div>
            </div>
            <Work plan={p} show={view.show} by={view.by} onOpen={setOpen} />
            {p.offer && p.offer.blocked.length > 0 && <Blocked blocked={p.offer.blocked} />}
          </>
        )}
      </Loaded>
      {open && <WorkPanel key={open.key} work={open} onClose={() => setOpen(undefined)} />}
    </Page>
  );
}

function running(run?: Schemas["Run"] | null): boolean {
  return run?.state === "queued" || run?.state === "running";
}

function Work({
  plan: p,
  show,
  by,
  onOpen,
}: {
  plan: Schemas["PlanView"];
  show: string;
  by: string;
  onOpen: (w: Schemas["ShownWork"]) => void;
}) {
  const offered = show === "offer" && p.offer && !p.run?.takenAt;
  const work = offered ? (p.offer?.work ?? []) : p.work;
  if (work.length === 0)
    return (
      <Empty title={offered ? "The planner has placed nothing." : "Nothing is planned."}>
        {p.people.length === 0
          ? "Nobody has told when they work: set their shifts under People."
          : "Have the weeks planned; nothing changes before you put a plan into force."}
      </Empty>
    );
  return (
    <WorkGroups
      work={work}
      by={by}
      moved={offered ? (p.offer?.moved ?? []) : []}
      onOpen={offered ? undefined : onOpen}
    />
  );
}

function few(names: readonly string[]): string {
  const machines = names.map((n) => n.split(":")[0]);
  return machines.length > 4
    ? `${machines.slice(0, 4).join(", ")} and ${machines.length - 4} more`
    : machines.join(", ");
}

/** How many machines of each ability are up, against what the shop keeps up. */
function Floors({ floors }: { floors: readonly Schemas["FloorState"][] }) {
  if (floors.length === 0) return null;
  return (
    <p className="mb-3 flex flex-wrap gap-x-6">
      {floors.map((f) => (
        <span key={f.question}>
          {f.ability}:{" "}
          <State tone={f.up >= f.least ? "good" : "bad"}>
            {f.up} of {f.of} up, at least {f.least}
          </State>
        </span>
      ))}
    </p>
  );
}

/** Spares that blocked work lacks. */
function Lacks({ lacks }: { lacks: readonly Schemas["LackedSpare"][] }) {
  if (lacks.length === 0) return null;
  return (
    <p className="mb-3 border-l-4 border-look bg-look-wash px-3 py-2">
      <b>▲ Spares are lacking:</b> {lacks.map((l) => `${l.count} × ${l.model} for ${few(l.for)}`).join("; ")}.{" "}
      <Link className="underline underline-offset-4" to="/spares">
        Order them
      </Link>
    </p>
  );
}
