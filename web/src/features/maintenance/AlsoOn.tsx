import { Check } from "../../ui/form";
import type { Row } from "./MachineName";

/** Other machines on which the same was done, to be recorded in one go. */
export function AlsoOn({
  rows,
  ids,
  onChange,
}: {
  rows: readonly Row[];
  ids: readonly number[];
  onChange: (ids: number[]) => void;
}) {
  if (rows.length === 0) return null;
  return (
    <details open={ids.length > 0} className="border-l-4 border-line pl-3">
      <summary className="min-h-10 cursor-pointer font-semibold">
        {ids.length > 0 ? `Also done on ${ids.length} of ${rows.length} others` : "Done on others in the same round?"}
      </summary>
      {rows.map((r) => (
        <Check
          key={r.machineId}
          label={`${r.machine}, ${r.bay}: ${r.words}`}
          checked={ids.includes(r.machineId)}
          onChange={(on) => onChange(on ? [...ids, r.machineId] : ids.filter((id) => id !== r.machineId))}
        />
      ))}
    </details>
  );
}
