import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, type Schemas, unwrap } from "../api/client";
import { keys } from "../api/keys";
import { Button, Fault } from "../ui/form";
import { useMayWork } from "../ui/session";
import { toast } from "../ui/toast";
import { useWrite } from "../ui/write";

/** How often dangers are looked after, ms: whoever may act sees one within seconds. */
const AGAIN = 3_000;

/** On top of every page of technicians and leads: dangers that nobody has taken yet. */
export function DangerBanner() {
  const mayWork = useMayWork();
  const query = useQuery({
    queryKey: keys.dangers(),
    queryFn: () => unwrap(api.GET("/api/dangers")),
    refetchInterval: AGAIN,
    refetchIntervalInBackground: true,
    enabled: mayWork,
  });
  const waiting = (query.data ?? []).filter((d) => d.waiting);
  if (waiting.length === 0) return null;
  return (
    <div role="alert" className="no-print">
      {waiting.map((d) => (
        <Waiting key={d.fault.id} danger={d} />
      ))}
    </div>
  );
}

function Waiting({ danger: d }: { danger: Schemas["OpenDanger"] }) {
  const { write, busy, fault } = useWrite();
  const f = d.fault;
  const sisters = [...new Set(d.sisters.map((s) => s.name))];
  const params = { path: { id: f.id } };
  const put = (version: number, off: boolean) =>
    unwrap(api.POST("/api/faults/{id}/take", { params, body: { version, off } }));
  const take = () =>
    write(
      () => put(f.version, false),
      () => toast(`You have taken the danger on ${f.machine}`, () => write(() => put(f.version + 1, true))),
    );
  return (
    <section
      aria-label={`Danger on ${f.machine}`}
      className="flex flex-wrap items-center gap-x-6 gap-y-2 border-b-4 border-bad bg-bad-wash px-4 py-2 text-ink lg:px-8"
    >
      <div className="min-w-0 flex-1 basis-80">
        <p className="text-lg leading-snug font-bold">
          <span aria-hidden="true" className="text-bad">
            ✖{" "}
          </span>
          Danger on {f.machine}
          {d.bay && `, ${d.bay}`}: {d.what}
        </p>
        <p>
          {f.words !== d.what && `“${f.words}” `}
          Reported by {f.by} {d.minutes < 1 ? "just now" : `${d.minutes} min ago`}.{" "}
          {d.overdue && <b>Nobody has taken it for {d.minutes} min. </b>}
          {sisters.length > 0 && `Same board, supply or heater: ${sisters.slice(0, 6).join(", ")}`}
          {sisters.length > 6 && ` and ${sisters.length - 6} more`}
        </p>
        <Fault text={fault} />
      </div>
      <div className="flex flex-wrap gap-2">
        <Button danger disabled={busy} onClick={take}>
          I am going there
        </Button>
        <Link
          className="inline-flex min-h-11 items-center font-semibold underline underline-offset-4"
          to={`/faults?fault=${f.id}`}
        >
          Open the fault
        </Link>
      </div>
    </section>
  );
}
