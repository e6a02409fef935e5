import type { Schemas } from "../../api/client";

/** What is wrong with a thing that came: found against advertised. */
export function Differs({ arrival: a }: { arrival: Schemas["Arrival"] }) {
  const differing = a.findings.filter((f) => f.differs);
  return (
    <span className="block min-w-48">
      <b>{a.outcome}</b>
      {a.note && `: ${a.note}`}
      {differing.map((f) => (
        <span key={f.trait} className="block">
          {f.label}: <b>{f.found}</b> found, {f.advertised} advertised
        </span>
      ))}
    </span>
  );
}
