import type { Schemas } from "../../api/client";
import { clockOf, dayAfter, showMinute, showWeekday } from "../../ui/clock";

type Work = Schemas["ShownWork"];

/** Planned work in groups: by week and day, task, machine or person. */
export function WorkGroups({
  work,
  by,
  moved,
  onOpen,
}: {
  work: readonly Work[];
  by: string;
  moved: readonly string[];
  onOpen?: (w: Work) => void;
}) {
  const groups = new Map<string, Work[]>();
  for (const w of work) {
    const key = groupOf(w, by);
    groups.set(key, [...(groups.get(key) ?? []), w]);
  }
  const list = by === "week" ? [...groups] : [...groups].toSorted((a, b) => a[0].localeCompare(b[0]));
  return (
    <div className="max-w-6xl">
      {list.map(([name, of]) => (
        <section key={name} className="mb-4 bg-leaf">
          <h2 className="border-b-2 border-line bg-wash px-3 py-1 text-lg font-bold">
            {name}
            {by === "task" && <span className="font-normal">: {machines(of)}</span>}
            <span className="ml-2 font-normal text-dim">
              {of.length} · {total(of)} min
            </span>
          </h2>
          <ul>
            {of.map((w) => (
              <li key={w.key} className="border-b border-rule">
                <Line work={w} by={by} moved={moved.includes(w.key)} onOpen={onOpen && (() => onOpen(w))} />
              </li>
            ))}
          </ul>
        </section>
      ))}
    </div>
  );
}

function Line({ work: w, by, moved, onOpen }: { work: Work; by: string; moved: boolean; onOpen?: () => void }) {
  const [from, to] = [clockOf(w.from), clockOf(w.to)];
  const text = (
    <>
      <span className="w-[13rem] shrink-0 whitespace-nowrap">
        {showWeekday(from.day)}, {showMinute(from.minute)}–{showMinute(to.minute)}
      </span>
      <b className="w-[7rem] shrink-0 truncate">{w.machine}</b>
      <span className="min-w-40 flex-1">
        {w.pinned && "■ "}
        {by === "task" && !w.order ? w.bay : w.title}
        {moved && <span className="text-look"> ▲ moved</span>}
      </span>
      <span className="text-dim">{w.person}</span>
    </>
  );
  const look = "flex min-h-10 w-full flex-wrap items-center gap-x-4 px-3 py-1 text-left";
  return onOpen ? (
    <button type="button" className={`${look} hover:bg-wash`} onClick={onOpen}>
      {text}
    </button>
  ) : (
    <p className={look}>{text}</p>
  );
}

function groupOf(w: Work, by: string): string {
  if (by === "task") return w.order ? "Work orders" : w.title;
  if (by === "machine") return w.machine;
  if (by === "person") return w.person;
  const day = w.from.slice(0, 10);
  const monday = dayAfter(day, -((new Date(`${day}T00:00Z`).getUTCDay() + 6) % 7));
  return `Week of ${showWeekday(monday)}`;
}

function machines(of: readonly Work[]): string {
  const names = [...new Set(of.map((w) => w.machine))];
  return names.length > 6 ? `${names.slice(0, 6).join(", ")} and ${names.length - 6} more` : names.join(", ");
}

function total(of: readonly Work[]): number {
  return of.reduce((sum, w) => sum + (Date.parse(w.to) - Date.parse(w.from)) / 60_000, 0);
}
