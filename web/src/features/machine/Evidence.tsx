import type { Schemas } from "../../api/client";
import { GradeMark } from "../../ui/badges";
import { showDay } from "../../ui/dates";
import { Who } from "../../ui/Who";

type Fact = Schemas["FactSheet"];

function standing(fact: Fact) {
  return fact.readings.find((x) => x.stands);
}

/** Facts with the same key are known in the same way, from the same person on the same day. */
export function evidenceKey(fact: Fact): string {
  const r = standing(fact);
  if (fact.grade === "unknown") return "unknown";
  if (fact.conflict) return `conflict ${fact.key}`;
  return JSON.stringify([fact.grade, fact.carried ?? "", fact.fromModel ?? "", r?.how ?? "", showDay(r?.at), r?.by]);
}

/** How sure a value is: how it was found, who found it and when, in one line. */
export function Evidence({ fact }: { fact: Fact }) {
  const r = standing(fact);
  const how = fact.carried || (fact.fromModel && "as its model in the catalogue") || r?.how;
  return (
    <span className="inline-flex flex-wrap items-center gap-x-1.5 text-dim">
      <GradeMark grade={fact.grade} colon={Boolean(how || r)} />
      {how && <span>{how}</span>}
      {r && (
        <span>
          {how ? "· " : ""}
          {showDay(r.at)}, <Who name={r.by} />
        </span>
      )}
    </span>
  );
}
