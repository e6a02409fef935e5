import type { Schemas } from "../../api/client";

type Answer = Schemas["FileVerdict"]["answer"];

export const tones = {
  "prints here": "good",
  "prints here after a repair": "cond",
  "look first": "look",
  "does not print here": "bad",
} as const satisfies Record<Answer, string>;

export const answers = Object.keys(tones) as Answer[];

/** How many machines are of which answer, in words. */
export function tally(counts: Record<string, number>): string {
  const says = {
    "prints here": "prints on",
    "prints here after a repair": "after a repair on",
    "look first": "look first on",
    "does not print here": "not on",
  };
  return answers
    .filter((a) => counts[a])
    .map((a) => `${says[a]} ${counts[a]}`)
    .join(" · ");
}

/** A size in bytes as people say it. */
export function size(bytes: number): string {
  if (bytes >= 1e9) return `${(bytes / 1e9).toFixed(1)} GB`;
  if (bytes >= 1e6) return `${(bytes / 1e6).toFixed(1)} MB`;
  return `${Math.max(1, Math.round(bytes / 1e3))} KB`;
}
