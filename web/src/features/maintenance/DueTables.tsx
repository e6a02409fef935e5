import { Link } from "react-router";
import { alongRows } from "../../ui/alongRows";
import { State } from "../../ui/badges";
import { showDay } from "../../ui/dates";
import { Button } from "../../ui/form";
import { useMayWork } from "../../ui/session";
import { MachineName, type Row } from "./MachineName";
import { dateOf } from "./when";

const tones = { overdue: "look", soon: "cond", later: "dim" } as const;

type Dated = keyof typeof tones;

export function Dates({ rows, onDone }: { rows: readonly Row[]; onDone: (row: Row) => void }) {
  const mayWork = useMayWork();
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: only passes arrow keys on to the buttons inside
    <div className="relative overflow-x-auto bg-leaf" onKeyDown={alongRows}>
      <table className="w-full border-collapse">
        <thead className="border-b-2 border-line bg-wall text-left">
          <tr>
            {["When", "Machine", "Task", "Used / limit", ""].map((h) => (
              <th key={h} scope="col" className="px-3 py-2">
                {h || <span className="sr-only">Done</span>}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((r) => (
            <tr
              key={`${r.machineId}-${r.task}`}
              className="border-b border-rule align-top hover:bg-wash compact:align-middle"
            >
              <td className="px-3 py-2 compact:py-0.5">
                <div className="compact:flex compact:items-baseline compact:gap-x-3">
                  <span className="compact:w-36 compact:shrink-0">
                    <State tone={tones[r.state as Dated]}>{r.words}</State>
                  </span>
                  <span className="block max-w-64 text-sm text-dim compact:max-w-none">{dateOf(r)}</span>
                </div>
              </td>
              <th scope="row" className="px-3 py-2 text-left compact:py-0.5">
                <MachineName row={r} />
              </th>
              <td className="px-3 py-2 compact:py-0.5">
                {r.title}
                {r.why && <span className="block text-sm">{r.why}</span>}
              </td>
              <td className="px-3 py-2 text-dim compact:py-0.5">
                {r.used}
                <span className="block text-sm compact:ml-3 compact:inline">
                  {r.lastDone ? `last done ${showDay(r.lastDone)}` : "never recorded"}
                  {r.rests && `; ${r.rests}`}
                </span>
              </td>
              <td className="px-3 py-2 text-right compact:py-0.5">
                {mayWork &&
                  (r.task === "protection-test" ? (
                    <Link
                      data-row
                      className="inline-flex min-h-11 items-center compact:min-h-8 border-2 border-line bg-leaf px-4 font-semibold whitespace-nowrap hover:border-accent"
                      to={`/machine/${r.machineId}?calibration=protection`}
                    >
                      Test it
                    </Link>
                  ) : (
                    <Button data-row className="whitespace-nowrap compact:min-h-8" onClick={() => onDone(r)}>
                      Done …
                    </Button>
                  ))}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
