/** What is otherwise there now than in what one edits. */
export type Difference = { name: string; theirs: string; mine: string };

/** Where a thing as it is now and as it is being edited differ, field by field. */
export function differences(theirs: object, mine: object): Difference[] {
  const there = theirs as Record<string, unknown>;
  const here = mine as Record<string, unknown>;
  return Object.keys(there)
    .filter((key) => JSON.stringify(there[key] ?? "") !== JSON.stringify(here[key] ?? ""))
    .map((key) => ({ name: wordsOf(key), theirs: shown(there[key]), mine: shown(here[key]) }));
}

/** "boughtOn" as people read it: "Bought on". */
function wordsOf(key: string): string {
  const words = key.replace(/([A-Z])/g, " $1").toLowerCase();
  return words.charAt(0).toUpperCase() + words.slice(1);
}

function shown(value: unknown): string {
  if (value === undefined || value === null || value === "") return "(empty)";
  if (typeof value === "boolean") return value ? "yes" : "no";
  if (typeof value !== "object") return String(value);
  const n = Array.isArray(value) ? value.length : Object.keys(value).length;
  return `${n} ${n === 1 ? "entry" : "entries"}`;
}
