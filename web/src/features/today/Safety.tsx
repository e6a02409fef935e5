import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { State } from "../../ui/badges";
import { alongRows } from "../../ui/table/arrows";
import { link, Section } from "./Section";

/** Tasks shown here; the rest stands under Maintenance. */
const MOST = 18;

/** One line with a count and one action: the machine whose test is longest due. */
export function Safety({ due }: { due: Schemas["DueList"] }) {
  const first = due.rows.find((r) => r.state === "not proven" && !r.danger);
  const machines = due.undated.find((u) => u.state === "not proven")?.machines ?? 0;
  if (machines === 0) return null;
  return (
    <p className="mb-4 flex flex-wrap items-center gap-x-4 border-l-4 border-bad bg-bad-wash px-4 py-1.5">
      <span>
        <b>
          Protection not proven on {machines} {machines === 1 ? "machine" : "machines"}:
        </b>{" "}
        stay with them while they print.
      </span>
      {first && (
        <Link className={`${link} font-semibold`} to={`/machine/${first.machineId}?calibration=protection`}>
          Test {first.machine} first
        </Link>
      )}
      <Link className={link} to="/due">
        All of them
      </Link>
    </p>
  );
}

const tones: Record<string, "look" | "cond" | "dim"> = { overdue: "look", soon: "cond", later: "dim" };

/** What falls due within a week, for a shop without a schedule. */
export function DueSoon({ due }: { due: Schemas["DueList"] }) {
  const dated = due.rows.filter((r) => r.on && r.task !== "protection-test");
  const found = due.found - due.rows.filter((r) => r.on).length + dated.length;
  return (
    <Section
      title="Due within a week"
      count={found}
      more={
        <Link className={link} to="/due">
          All maintenance
        </Link>
      }
    >
      {dated.length === 0 && <p className="py-2 text-dim">Nothing is due this week.</p>}
      {/* biome-ignore lint/a11y/noStaticElementInteractions: only passes arrow keys on to the links inside */}
      <div className="relative overflow-x-auto bg-leaf" onKeyDown={alongRows}>
        <table className="w-full">
          <tbody>
            {dated.slice(0, MOST).map((r) => (
              <tr key={`${r.machineId}-${r.task}`} className="border-b border-rule hover:bg-wash">
                <th scope="row" className="p-0 text-left">
                  <Link data-row className="flex min-h-10 items-center px-3 font-bold" to={`/machine/${r.machineId}`}>
                    {r.machine}
                  </Link>
                </th>
                <td className="px-3 py-1">{r.title}</td>
                <td className="px-3 py-1 whitespace-nowrap">
                  <State tone={tones[r.state] ?? "dim"}>{r.words}</State>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {found > MOST && (
          <p className="px-3 py-2 text-dim">
            The {MOST} most urgent of {found} are shown.
          </p>
        )}
      </div>
    </Section>
  );
}
