import { Link } from "react-router";
import { useMayWork } from "../../ui/session";
import { FirstOf } from "./FirstOf";
import { MachineName, type Row } from "./MachineName";

/** Unproven protection: one line with a count, and each machine's test behind it. */
export function Unproven({ rows, machines }: { rows: readonly Row[]; machines: number }) {
  const mayWork = useMayWork();
  return (
    <details className="mb-5 border-l-4 border-bad bg-bad-wash px-4 py-2">
      <summary className="min-h-11 cursor-pointer py-1.5 text-lg">
        <b>
          Thermal-runaway protection is not proven on {machines} {machines === 1 ? "machine" : "machines"}
        </b>
        : test now; until then never left running unattended.
      </summary>
      <ul>
        {rows.map((r) => (
          <li key={r.machineId} className="flex flex-wrap items-center gap-x-4 border-t border-rule py-1">
            <MachineName row={r} />
            <span>{r.words}</span>
            {mayWork && (
              <Link
                className="ml-auto inline-flex min-h-11 items-center border-2 border-line bg-leaf px-4 font-semibold whitespace-nowrap hover:border-accent"
                to={`/machine/${r.machineId}?calibration=protection`}
              >
                Test it
              </Link>
            )}
          </li>
        ))}
        <FirstOf shown={rows.length} all={machines} />
      </ul>
    </details>
  );
}
