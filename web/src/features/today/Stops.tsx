import { Link } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { clockOf, showMinute, showWeekday } from "../../ui/clock";
import { Button, Fault } from "../../ui/form";
import { useGo } from "../../ui/go";
import { LinkButton } from "../../ui/LinkButton";
import { workLink } from "../../ui/plan/workLink";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { link, Section } from "./Section";

type Work = Schemas["ShownWork"];

/** What is to be done now and where, place by place, with what to take along. */
export function Stops({ today: t }: { today: Schemas["TodayView"] }) {
  const count = t.stops.reduce((sum, s) => sum + s.work.length, 0);
  return (
    <Section
      title="Planned for you"
      count={count}
      more={
        <Link className={link} to="/calendar?side=people&days=1">
          Your day drawn
        </Link>
      }
    >
      {t.works.length > 0 && (
        <p className="text-dim">
          You work{" "}
          {t.works
            .map((s) => `${showMinute(clockOf(s.from).minute)} to ${showMinute(clockOf(s.to).minute)}`)
            .join(" and ")}{" "}
          today.
        </p>
      )}
      {count === 0 && <Nothing today={t} />}
      {t.stops.map((s) => (
        <div key={s.work[0]?.key} className="mb-3 bg-leaf">
          <h3 className="bg-wash px-3 py-1 font-bold">{s.bay || "No bay"}</h3>
          {(s.tools.length > 0 || s.parts.length > 0) && (
            <p className="border-b border-rule px-3 py-1">Take along: {[...s.parts, ...s.tools].join(", ")}</p>
          )}
          <ul>
            {s.work.map((w) => (
              <li key={w.key} className="border-b border-rule px-3 py-1">
                <Planned work={w} />
              </li>
            ))}
          </ul>
        </div>
      ))}
    </Section>
  );
}

function Nothing({ today: t }: { today: Schemas["TodayView"] }) {
  const [first] = t.nextWork;
  if (!t.planned)
    return (
      <p className="py-2">
        No week is planned. What is due stands below;{" "}
        <Link className={link} to="/weeks">
          the weeks ahead
        </Link>{" "}
        are planned by a lead.
      </p>
    );
  if (!first) return <p className="py-2 text-dim">Nothing is planned for you.</p>;
  return (
    <p className="py-2">
      Nothing for today. Next, on {showWeekday(first.from.slice(0, 10))}: {t.nextWork.length}{" "}
      {t.nextWork.length === 1 ? "piece" : "pieces"} of work, {first.machine} first: {first.title}.
    </p>
  );
}

/** One piece of work: begun, done, or left for what was found. */
function Planned({ work: w }: { work: Work }) {
  const go = useGo();
  const { write, busy, fault } = useWrite();
  const from = clockOf(w.from);
  const task = { params: { path: { id: w.machineId } }, body: { task: w.task ?? "" } };
  const undo = () =>
    write(
      () => unwrap(api.POST("/api/machines/{id}/undo-done", task)),
      () => toast(`Not done: ${w.title} on ${w.machine} is on your list again`),
    );
  const done = () =>
    write(
      () => unwrap(api.POST("/api/machines/{id}/done", task)),
      () => toast(`${w.title} on ${w.machine} is done`, undo),
    );
  return (
    <>
      <div className="flex flex-wrap items-center gap-x-4 gap-y-1">
        <span className="w-14">{showMinute(from.minute)}</span>
        <span className="min-w-48 flex-1">
          <Link className="font-bold underline underline-offset-4" to={`/machine/${w.machineId}`}>
            {w.machine}
          </Link>{" "}
          {w.title}
        </span>
        {w.task && !w.order && w.task !== "protection-test" ? (
          <>
            <Button
              className="compact:min-h-9"
              disabled={busy}
              aria-label={`Start ${w.title} on ${w.machine}`}
              onClick={() =>
                write(
                  () => unwrap(api.POST("/api/work/task", { body: { machineId: w.machineId, task: w.task ?? "" } })),
                  ({ id }) => go(`/work/${id}`),
                )
              }
            >
              Start
            </Button>
            {w.renews ? (
              <LinkButton to={`/due?done=${w.machineId}.${w.task}`} label={`${w.title} on ${w.machine} is done`}>
                Done …
              </LinkButton>
            ) : (
              <Button
                className="compact:min-h-9"
                disabled={busy}
                aria-label={`${w.title} on ${w.machine} is done`}
                onClick={done}
              >
                Done
              </Button>
            )}
          </>
        ) : (
          <LinkButton to={workLink(w)}>{w.order ? "Go on" : w.fault ? "To the fault" : "Test"}</LinkButton>
        )}
        <Link className={link} to={`/faults?report=1&machine=${w.machineId}`}>
          Found something
        </Link>
      </div>
      <Fault text={fault} />
    </>
  );
}
