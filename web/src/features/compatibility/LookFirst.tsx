import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { Button } from "../../ui/form";
import { ReadingForm } from "../../ui/readings/ReadingForm";
import { useAdvice } from "./Advice";
import type { Sheet } from "./Consequences";

export function LookFirst({ sheet, mayWork }: { sheet: Sheet; mayWork: boolean }) {
  const v = sheet.verdict;
  const facts = new Map(sheet.open.map((f) => [f.key, f]));
  const advice = useAdvice(sheet.kit.key, sheet.machineId);
  const course = advice.data?.look.keys ?? [];
  const place = (key: string) => (course.includes(key) ? course.indexOf(key) : course.length);
  const look = [...v.look].sort((a, b) => place(a.inspection.key) - place(b.inspection.key));
  return (
    <section aria-labelledby="look">
      <h2 id="look" className="text-2xl font-bold">
        Look first
      </h2>
      <p className="mb-2 text-dim">Quickest course first. Stop as soon as the verdict is settled.</p>
      <ol className="space-y-3">
        {look.map((l, i) => (
          <li key={l.inspection.key} className="border-2 border-line bg-leaf px-4 py-3">
            <h3 className="flex flex-wrap justify-between gap-x-4 text-xl font-bold">
              <span>
                {i + 1}. {l.inspection.title}
              </span>
              <span>{l.inspection.minutes} min</span>
            </h3>
            {l.inspection.risk && <p className="text-look">Risk: {l.inspection.risk}.</p>}
            <ul>
              {l.keys.map((k) => {
                const fact = facts.get(k);
                return fact ? (
                  <OpenFact
                    key={k}
                    inspection={l.inspection.key}
                    fact={fact}
                    machineId={sheet.machineId}
                    mayWork={mayWork}
                  />
                ) : null;
              })}
            </ul>
          </li>
        ))}
      </ol>
    </section>
  );
}

function OpenFact({
  fact,
  inspection,
  machineId,
  mayWork,
}: {
  fact: Schemas["FactSheet"];
  inspection: string;
  machineId: number;
  mayWork: boolean;
}) {
  const [open, setOpen] = useState(false);
  return (
    <li className="border-t border-rule py-2">
      <div className="flex flex-wrap items-center justify-between gap-x-4">
        <span>
          {fact.label}{" "}
          <span className="text-dim">
            {fact.grade === "unknown"
              ? "unknown"
              : fact.conflict
                ? `readings differ: ${fact.readings
                    .filter((r) => r.inConflict)
                    .map((r) => r.value)
                    .join(" / ")}`
                : `${fact.value}, only ${fact.grade}`}
          </span>
        </span>
        {mayWork &&
          (fact.conflict ? (
            <Link
              className="inline-flex min-h-11 items-center border-2 border-line px-4 font-semibold hover:border-accent"
              to={`/machine/${machineId}?fact=${fact.key}`}
            >
              Settle it on the sheet
            </Link>
          ) : (
            <Button aria-expanded={open} onClick={() => setOpen(!open)}>
              {open ? "Close" : "Record a reading"}
            </Button>
          ))}
      </div>
      {open && (
        <div className="mt-2 border-l-4 border-accent pl-4">
          <ReadingForm machineId={machineId} fact={fact} inspection={inspection} />
        </div>
      )}
    </li>
  );
}
