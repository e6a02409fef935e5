import type { Schemas } from "../../api/client";
import { Cautions } from "../../ui/form";

/** The usual causes of a symptom, each with the check that shows it. */
export function Causes({ symptom }: { symptom: Schemas["Symptom"] }) {
  return (
    <ol className="space-y-2">
      {symptom.causes.map((c) => (
        <li key={c.cause} className="border-l-4 border-line pl-3">
          <b>{c.cause}</b>
          <span className="block">Check: {c.check}</span>
          {c.caution && (
            <div className="mt-1">
              <Cautions list={[c.caution]} />
            </div>
          )}
        </li>
      ))}
    </ol>
  );
}
