import type { Schemas } from "../../api/client";
import { State } from "../../ui/badges";
import { showDay } from "../../ui/dates";
import { Who } from "../../ui/Who";

type Sheet = Schemas["Sheet"];

const tones = {
  valid: "good",
  invalid: "look",
  "cannot be told": "look",
  failed: "bad",
  "never recorded": "dim",
} as const;

type Calibration = Schemas["CalibrationSheet"];

/** Subjects of one kind that stand alike are one row: "Motor direction, axis X, axis Y". */
function alike(list: readonly Calibration[]): Calibration[][] {
  const rows: Calibration[][] = [];
  const same = (c: Calibration) => JSON.stringify([c.kind, c.state, c.value, c.at, c.store, c.invalid?.reason]);
  for (const c of list) {
    const row = rows.at(-1);
    if (row?.[0] && same(row[0]) === same(c) && !c.disagreement && !row[0].disagreement) row.push(c);
    else rows.push([c]);
  }
  return rows;
}

export function SheetCalibrations({
  sheet,
  onOpen,
}: {
  sheet: Sheet;
  onOpen: (kind: string, subject: string) => void;
}) {
  return (
    <section aria-labelledby="calibrations">
      <h2 id="calibrations" className="mb-1 text-2xl font-bold compact:text-lg">
        Proofs and calibrations
      </h2>
      <ul className="bg-leaf">
        {alike(sheet.calibrations).map((row) => {
          const c = row[0] as Calibration;
          const of = sheet.calibrations.filter((x) => x.kind === c.kind);
          return (
            <li key={c.kind + c.subject} className="border-b border-rule">
              <button
                type="button"
                className="min-h-11 w-full px-3 compact:min-h-[24px] py-1.5 text-left compact:py-0.5 hover:bg-wash"
                onClick={() => onOpen(c.kind, c.subject)}
              >
                <span className="flex flex-wrap items-baseline justify-between gap-x-4">
                  <b>
                    {row.length === of.length ? c.title : [c.name, ...row.slice(1).map((x) => x.subject)].join(", ")}
                  </b>
                  {c.state === "valid" && c.disagreement ? (
                    <State tone="look">disagrees</State>
                  ) : (
                    <State tone={tones[c.state]}>{c.state}</State>
                  )}
                </span>
                {c.value && (
                  <span className={`font-mono ${c.state === "invalid" ? "line-through" : ""}`}>{c.value}</span>
                )}
                {c.at && (
                  <span className="block text-sm text-dim">
                    {showDay(c.at)}, <Who name={c.by ?? ""} />
                    {c.store !== "the part itself" && `; kept in: ${c.store}`}
                  </span>
                )}
                {c.invalid && (
                  <span className="block text-sm">
                    {c.invalid.remedy}: {c.invalid.reason}
                  </span>
                )}
                {c.disagreement && (
                  <span className="block text-sm">
                    {c.disagreement.statements.map((s) => `${s.value} ${s.where}`).join(" · ")}
                  </span>
                )}
              </button>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
