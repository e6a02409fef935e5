import { useQuery } from "@tanstack/react-query";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { showDay } from "../../ui/dates";
import { Button } from "../../ui/form";
import { Who } from "../../ui/Who";
import { ValuePlot } from "./ValuePlot";

type Sister = Schemas["SisterCalibrated"];

/** What a calibration has been on this machine, with what it was made; and what other machines have. */
export function CalibrationHistory({
  machineId,
  kind,
  subject,
  onStart,
}: {
  machineId: number;
  kind: string;
  subject: string;
  /** Takes another machine's value as a start, where one can be typed. */
  onStart?: (sister: Sister) => void;
}) {
  const query = useQuery({
    queryKey: keys.calibrationHistory(machineId, kind, subject),
    queryFn: () =>
      unwrap(
        api.GET("/api/machines/{id}/calibration-history", {
          params: { path: { id: machineId }, query: { kind, subject } },
        }),
      ),
  });
  const history = query.data;
  if (!history || history.made.length + history.sisters.length === 0) return null;
  const plotted = history.made.flatMap((m) =>
    m.number === undefined ? [] : [{ on: m.on, number: m.number, value: m.value, ended: Boolean(m.ended) }],
  );
  return (
    <section aria-label="History" className="mt-6 border-t-2 border-line pt-3">
      {history.made.length > 0 && (
        <>
          <h3 className="text-xl font-bold">So far on this machine</h3>
          <ValuePlot points={plotted} unit={history.unit} />
          <ul>
            {history.made.toReversed().map((m, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: two can be of one day and value
              <li key={i} className="border-b border-rule py-1.5">
                <b className="font-mono">{m.value}</b> {showDay(m.on)}, <Who name={m.by} words />
                <span className="text-dim"> · {m.store}</span>
                {m.ended && <span className="block text-sm text-look">▲ no longer valid: {m.ended}</span>}
                {m.context.length > 0 && <span className="block text-sm text-dim">{m.context.join(" · ")}</span>}
              </li>
            ))}
          </ul>
        </>
      )}
      {history.sisters.length > 0 && (
        <details className="mt-3">
          <summary className="min-h-11 cursor-pointer py-2 font-semibold">What other machines have</summary>
          <p className="text-dim">At most a start: it is measured on this machine all the same.</p>
          <ul>
            {history.sisters.map((s) => (
              <li key={s.machineId} className="flex flex-wrap items-center gap-x-4 border-b border-rule py-1">
                <span>
                  <b>{s.machine}</b> <span className="font-mono">{s.value}</span>{" "}
                  <span className="text-dim">{showDay(s.on)}</span>
                  <span className="block text-sm text-dim">
                    {s.unlike.length === 0
                      ? "every part that matters for it is the same"
                      : `not known to be the same: ${s.unlike.join(", ")}`}
                  </span>
                </span>
                {onStart && (
                  <Button className="ml-auto" onClick={() => onStart(s)}>
                    Start from it
                  </Button>
                )}
              </li>
            ))}
          </ul>
        </details>
      )}
    </section>
  );
}
