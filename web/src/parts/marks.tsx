import type { ReactNode } from "react";

/** Tally strokes for evidence: one claimed, two marked, three read, four crossed proven. */
export function GradeMark({ grade, word = true }: { grade: string; word?: boolean }) {
  const n = ["unknown", "claimed", "marked", "read", "proven"].indexOf(grade);
  const width = n <= 0 ? 22 : n === 4 ? 24 : 3 + n * 5;
  return (
    <span className={`inline-flex items-center gap-1.5 whitespace-nowrap ${n <= 1 ? "text-dim" : ""}`}>
      <svg width={width} height="16" viewBox={`0 0 ${width} 16`} aria-hidden="true" className="shrink-0">
        {n <= 0 && <path d="M4 8h15" stroke="currentColor" strokeWidth="2" strokeDasharray="2 3" />}
        {[0, 1, 2, 3].slice(0, Math.max(n, 0)).map((i) => (
          <path
            key={i}
            d={`M${4 + i * 5} 2v12`}
            stroke="currentColor"
            strokeWidth="2.4"
            strokeDasharray={n === 1 ? "3 2" : undefined}
          />
        ))}
        {n === 4 && <path d="M1 13L22 3" stroke="currentColor" strokeWidth="2.4" />}
      </svg>
      {word ? <span>{grade}</span> : <span className="sr-only">{grade}</span>}
    </span>
  );
}

export const gradeWords = [
  ["claimed", "a seller, a sheet, somebody's memory"],
  ["marked", "printed on the part, a sticker"],
  ["read", "seen on the part itself, or told by the machine"],
  ["proven", "shown by a test"],
] as const;

const verdictLook: Record<string, { tone: string; block: ReactNode }> = {
  // A block and the slot it goes into: seated, seated with a wedge, still a question, too wide.
  fits: { tone: "text-good", block: <rect x="7" y="5" width="10" height="12" fill="currentColor" /> },
  "fits if": {
    tone: "text-cond",
    block: (
      <>
        <rect x="7" y="11" width="10" height="6" fill="currentColor" />
        <path d="M12 1v8M8 5h8" stroke="currentColor" strokeWidth="2.2" />
      </>
    ),
  },
  "look first": {
    tone: "text-look",
    block: (
      <>
        <rect
          x="7.5"
          y="2"
          width="9"
          height="10"
          fill="none"
          stroke="currentColor"
          strokeWidth="1.8"
          strokeDasharray="2.5 2"
        />
        <circle cx="12" cy="15.5" r="1.6" fill="currentColor" />
      </>
    ),
  },
  "does not fit": { tone: "text-bad", block: <path d="M1 1h22v5H1z" fill="currentColor" /> },
};

export function VerdictMark({
  answer,
  large = false,
  word = true,
}: {
  answer: string;
  large?: boolean;
  word?: boolean;
}) {
  const look = verdictLook[answer];
  const size = large ? 44 : 22;
  return (
    <span
      className={`inline-flex items-center gap-2 font-bold whitespace-nowrap ${look?.tone ?? ""} ${large ? "text-4xl" : ""}`}
    >
      <svg width={size} height={size} viewBox="0 0 24 24" aria-hidden="true" className="shrink-0">
        <path d="M4 8v12h16V8" fill="none" stroke="currentColor" strokeWidth="2.4" />
        {look?.block}
      </svg>
      {word ? answer : <span className="sr-only">{answer}</span>}
    </span>
  );
}

export const verdictWords = [
  ["fits", "as the machine stands"],
  ["fits if", "with further changes"],
  ["look first", "a fact that decides is unknown or only claimed"],
  ["does not fit", "and why, and what would change that"],
] as const;

/** State of something that must hold: a word with a shape. */
export function State({ tone, children }: { tone: "good" | "look" | "bad" | "dim" | "cond"; children: ReactNode }) {
  const shape = { good: "■", cond: "◆", look: "▲", bad: "✖", dim: "○" }[tone];
  const color = { good: "text-good", cond: "text-cond", look: "text-look", bad: "text-bad", dim: "text-dim" }[tone];
  return (
    <span className={`inline-flex items-baseline gap-1.5 font-semibold ${color}`}>
      <span aria-hidden="true" className="text-[0.8em]">
        {shape}
      </span>
      <span>{children}</span>
    </span>
  );
}
