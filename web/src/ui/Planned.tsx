import { Link } from "react-router";
import { api, type Schemas, unwrap } from "../api/client";
import { Button, Fault } from "./form";
import { useGo } from "./go";
import { toast } from "./toast";
import { useWrite } from "./write";

/** Work that waits its turn on a machine: the first can be begun once nothing else is open. */
export function Planned({
  planned,
  locked,
  mayWork,
}: {
  planned: readonly Schemas["OrderHead"][];
  /** Number of the work order that is open on the machine. */
  locked?: number;
  mayWork: boolean;
}) {
  const go = useGo();
  const { write, busy, fault } = useWrite();
  if (planned.length === 0) return null;
  return (
    <section aria-labelledby="planned" className="mb-6 border-l-4 border-look bg-look-wash px-5 py-4 print:hidden">
      <h2 id="planned" className="text-xl font-bold">
        {locked ? `After work order ${locked}, in this order` : "Next in the plan"}
      </h2>
      <ol className="mt-1">
        {planned.map((o, i) => (
          <li key={o.id} className="flex flex-wrap items-center justify-between gap-3 border-b border-rule py-2">
            <span>
              {i + 1}.{" "}
              <Link className="font-semibold underline underline-offset-4" to={`/work/${o.id}`}>
                {o.kit}
              </Link>{" "}
              <span className="text-dim">{o.reason}</span>
            </span>
            {mayWork && (
              <span className="flex flex-wrap gap-2">
                {i === 0 && !locked && (
                  <Button
                    main
                    disabled={busy}
                    onClick={() =>
                      write(
                        () => unwrap(api.POST("/api/work/{id}/begin", { params: { path: { id: o.id } } })),
                        (made) => {
                          toast(`Work order ${made.id} is open; ${made.machine} is locked out`);
                          go(`/work/${made.id}`);
                        },
                      )
                    }
                  >
                    Begin {o.kit}
                  </Button>
                )}
                <Button
                  disabled={busy}
                  onClick={() =>
                    write(
                      () => unwrap(api.POST("/api/work/{id}/abandon", { params: { path: { id: o.id } } })),
                      () =>
                        toast(`${o.kit} is out of the plan`, () =>
                          write(() =>
                            unwrap(api.POST("/api/work/{id}/plan-again", { params: { path: { id: o.id } } })),
                          ),
                        ),
                    )
                  }
                >
                  Take out of the plan <span className="sr-only">{o.kit}</span>
                </Button>
              </span>
            )}
          </li>
        ))}
      </ol>
      <Fault text={fault} />
    </section>
  );
}
