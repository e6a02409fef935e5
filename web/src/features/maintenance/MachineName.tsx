import { Link } from "react-router";
import type { Schemas } from "../../api/client";

export type Row = Schemas["DueRow"];

export function MachineName({ row }: { row: Row }) {
  return (
    <span className="compact:flex compact:items-baseline compact:gap-x-2">
      <Link
        className="text-lg font-bold compact:text-base underline-offset-4 hover:underline"
        to={`/machine/${row.machineId}`}
      >
        {row.machine}
      </Link>
      <span className="block text-sm font-normal whitespace-nowrap text-dim">
        {row.bay}
        {row.locked && " · locked out"}
        {row.danger && " · danger reported: inspect first"}
      </span>
    </span>
  );
}
