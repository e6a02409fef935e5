import { api, type Schemas, unwrap } from "../../api/client";
import { showMoment } from "../../ui/dates";
import { Button, Fault } from "../../ui/form";
import { useRole } from "../../ui/session";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

/** The planner's newest run: how far it is, or what it proposes. */
export function Run({
  plan,
  show,
  onShow,
}: {
  plan: Schemas["PlanView"];
  show: string;
  onShow: (show: string) => void;
}) {
  const role = useRole();
  const { write, busy, fault } = useWrite();
  const { run, offer } = plan;
  if (!run) return null;
  const params = { path: { id: run.id } };
  if (run.state === "queued" || run.state === "running")
    return (
      <div role="status" className="mb-3 max-w-4xl border-2 border-line bg-leaf px-4 py-2">
        <p className="flex flex-wrap items-center justify-between gap-3">
          <span>
            <b>A plan is being made.</b> {run.says || "It waits for its turn."} {Math.round(100 * run.share)} %
          </span>
          {role === "lead" && (
            <Button
              disabled={busy || run.stop}
              onClick={() => write(() => unwrap(api.POST("/api/roster/runs/{id}/stop", { params })))}
            >
              {run.stop ? "Stopping …" : "Stop: keep the best so far"}
            </Button>
          )}
        </p>
        <progress
          className="mt-1 h-2 w-full accent-accent"
          max={1}
          value={run.share}
          aria-label="How far the plan is"
        />
        <Fault text={fault} />
      </div>
    );
  if (run.state === "failed") return <Fault text={run.says} />;
  if (run.takenAt || !offer)
    return (
      <p className="mb-3 text-dim">
        The plan of {showMoment(run.askedAt)} is in force{run.takenBy && `, put there by ${run.takenBy}`}. {run.says}
      </p>
    );
  return (
    <div className="mb-3 max-w-4xl border-2 border-accent bg-leaf px-4 py-2">
      <p>
        <b>A plan is proposed.</b> {run.says} {said(offer)}
      </p>
      <p className="text-dim">
        It costs {Math.round(offer.cost)} min by the shop's weights
        {plan.work.length > 0 && `; the plan in force, ${Math.round(offer.was)} min for what it holds`}.
      </p>
      <div className="mt-2 flex flex-wrap gap-2">
        {role === "lead" && (
          <Button
            main
            disabled={busy}
            onClick={() =>
              write(
                () => unwrap(api.POST("/api/roster/runs/{id}/take", { params })),
                () => {
                  toast("The plan is in force");
                  onShow("force");
                },
              )
            }
          >
            Put it into force
          </Button>
        )}
        <Button onClick={() => onShow(show === "offer" ? "force" : "offer")}>
          {show === "offer" ? "Show the plan in force" : "Show what is proposed"}
        </Button>
      </div>
      <Fault text={fault} />
    </div>
  );
}

function said(o: Schemas["PlanOffer"]): string {
  const parts = [];
  if (o.new > 0) parts.push(`${o.new} new`);
  if (o.moved.length > 0) parts.push(`${o.moved.length} moved`);
  if (o.blocked.length > 0) parts.push(`${o.blocked.length} cannot be placed`);
  return parts.length > 0 ? `${parts.join(", ")}.` : "It is as the plan in force.";
}
