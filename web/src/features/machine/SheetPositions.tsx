import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { alongRows } from "../../ui/table/arrows";
import { Evidence, evidenceKey } from "./Evidence";

type Slot = Schemas["SlotSheet"];
type Fact = Schemas["FactSheet"];

/** What is in each position. Values of one evidence stand together, with it said once; the evidence
 * that most values have is said above them all. */
export function SheetPositions({
  sheet,
  all,
  onOpen,
}: {
  sheet: Schemas["Sheet"];
  all: boolean;
  onOpen: (key: string) => void;
}) {
  const shown = sheet.slots.filter((s) => (all && !s.superseded) || s.traits.some(known));
  if (shown.length === 0)
    return <p className="text-dim">Nothing is known yet. Show unknowns and take the first reading.</p>;
  const usual = commonest(shown.flatMap((s) => s.traits.filter(known)));
  return (
    <>
      {usual && (
        <p className="mb-1 flex flex-wrap items-center gap-x-1.5 text-dim">
          {usual.count} values, wherever nothing else is said: <Evidence fact={usual.fact} />
        </p>
      )}
      {/* biome-ignore lint/a11y/noStaticElementInteractions: only passes arrow keys on to the buttons inside */}
      <div className="bg-leaf" onKeyDown={alongRows}>
        {shown.map((slot, i) => (
          <div key={slot.key}>
            {slot.group !== shown[i - 1]?.group && (
              <h3 className="border-b-2 border-line bg-wall pt-2 pb-0.5 font-bold text-dim">{slot.group}</h3>
            )}
            <div className="grid border-b border-rule sm:grid-cols-[9rem_minmax(0,1fr)]">
              <SlotName slot={slot} />
              <ul>
                {grouped(slot.traits.filter((t) => all || known(t))).map((group) => (
                  <FactGroup
                    key={group[0]?.key}
                    facts={group}
                    usual={usual !== undefined && evidenceKey(group[0] as Fact) === usual.key}
                    onOpen={onOpen}
                  />
                ))}
              </ul>
            </div>
          </div>
        ))}
      </div>
      {!all && <Unknowns slots={sheet.slots.filter((s) => !s.superseded)} />}
    </>
  );
}

function known(t: Fact) {
  return t.grade !== "unknown";
}

/** Facts in the order of the sheet, those of one evidence together. */
function grouped(facts: readonly Fact[]): Fact[][] {
  const groups = new Map<string, Fact[]>();
  for (const f of facts) {
    const key = evidenceKey(f);
    groups.set(key, [...(groups.get(key) ?? []), f]);
  }
  return [...groups.values()];
}

/** The evidence of most facts, where it is that of several. */
function commonest(facts: readonly Fact[]) {
  const groups = grouped(facts).toSorted((a, b) => b.length - a.length);
  const most = groups[0];
  return most?.[0] && most.length > 3 ? { key: evidenceKey(most[0]), fact: most[0], count: most.length } : undefined;
}

function SlotName({ slot }: { slot: Slot }) {
  return (
    <div className="px-3 py-1.5 font-bold">
      {slot.part ? (
        <Link
          to={`/part/${slot.part}`}
          className="decoration-1 underline-offset-4 hover:underline"
          title="This part: tag, supplier, where it has been"
        >
          {slot.label}
        </Link>
      ) : (
        slot.label
      )}
    </div>
  );
}

function FactGroup({
  facts,
  usual,
  onOpen,
}: {
  facts: readonly Fact[];
  usual: boolean;
  onOpen: (key: string) => void;
}) {
  return (
    <li className="flex flex-wrap items-center gap-x-1">
      {facts.map((t) => (
        <button
          key={t.key}
          data-row
          type="button"
          onClick={() => onOpen(t.key)}
          className="flex min-h-11 flex-wrap items-center gap-x-1.5 px-2 py-0.5 text-left leading-snug hover:bg-wash compact:min-h-[24px]"
        >
          <span className="text-dim">{t.short}</span>
          <span
            className={`font-semibold ${t.conflict ? "text-look" : t.grade === "unknown" ? "font-normal text-dim" : ""}`}
          >
            {(t.conflict || t.disagreement) && "▲ "}
            {t.value}
          </span>
        </button>
      ))}
      {!usual && facts[0] && facts[0].grade !== "unknown" && (
        <span className="px-2 text-sm">
          <Evidence fact={facts[0]} />
        </span>
      )}
    </li>
  );
}

/** What is not known, in a line of its own. */
function Unknowns({ slots }: { slots: readonly Slot[] }) {
  const nothing = slots.filter((s) => !s.traits.some(known));
  const some = slots.filter((s) => s.traits.some(known) && !s.traits.every(known));
  const part = (s: Slot) =>
    `${s.label} (${s.traits
      .filter((t) => !known(t))
      .map((t) => t.short)
      .join(", ")})`;
  return (
    <div className="mt-3 space-y-1 text-dim">
      {nothing.length > 0 && (
        <p>
          <b>Nothing is known of:</b> {nothing.map((s) => s.label).join(", ")}.
        </p>
      )}
      {some.length > 0 && (
        <details>
          <summary className="min-h-8 cursor-pointer">
            <b>Not known in part:</b> {some.map((s) => s.label).join(", ")}.
          </summary>
          {some.map(part).join("; ")}.
        </details>
      )}
    </div>
  );
}
