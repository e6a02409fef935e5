import type { ReactNode } from "react";

/** Tally strokes for evidence: one claimed, two marked, three read, four crossed proven. */
export function GradeMark({
  grade,
  word = true,
  terse = false,
  colon = false,
}: {
  grade: string;
  word?: boolean;
  /** In compact tables the strokes alone are shown; the word is read out. */
  terse?: boolean;
  /** How it was found follows. */
  colon?: boolean;
}) {
  const n = ["unknown", "claimed", "marked", "observed", "proven"].indexOf(grade);
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
      {word ? (
        <span className={terse ? "compact:sr-only" : ""}>{colon ? `${grade}:` : grade}</span>
      ) : (
        <span className="sr-only">{grade}</span>
      )}
    </span>
  );
}

export const gradeWords = [
  ["claimed", "a seller, a sheet, somebody's memory"],
  ["marked", "printed on the part, a sticker"],
  ["observed", "seen on the part itself, or told by the machine"],
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

/** Which way the claims lean, in the corner of the mark: a small block as it would lie in the slot. */
const leanLook: Record<string, ReactNode> = {
  fits: <path d="M17 1h6v6h-6z" fill="currentColor" />,
  "fits if": <path d="M20 0v7M16.5 3.5h7" stroke="currentColor" strokeWidth="2.2" />,
  "does not fit": <path d="M16 2.5h8" stroke="currentColor" strokeWidth="3" />,
};

/** An answer with its lean in words: "look first, leans to fits". */
export function answerWords(answer: string, lean?: string) {
  if (!lean) return answer;
  return lean === "no lean" ? `${answer}, no lean` : `${answer}, leans to ${lean}`;
}

/** How those that are to be looked at first lean. */
export function LeanCounts({
  counts: c,
}: {
  counts: { lookFirst: number; leansFits: number; leansFitsIf: number; leansDoesNotFit: number; noLean: number };
}) {
  if (c.lookFirst === 0) return null;
  const says = [
    [c.leansFits, "to fits"],
    [c.leansFitsIf, "to fits if"],
    [c.leansDoesNotFit, "to does not fit"],
    [c.noLean, "not at all"],
  ] as const;
  return (
    <span className="block text-dim">
      Of those to be looked at first, the claims lean{" "}
      {says
        .filter(([n]) => n > 0)
        .map(([n, what]) => `${n} ${what}`)
        .join(", ")}
      .
    </span>
  );
}

/** The tray of a verdict without its word: only where something else says it. */
export function VerdictSign({ answer, lean, size = 22 }: { answer: string; lean?: string; size?: number }) {
  const look = verdictLook[answer];
  return (
    <svg width={size} height={size} viewBox="0 0 24 24" aria-hidden="true" className={`shrink-0 ${look?.tone ?? ""}`}>
      <path d="M4 8v12h16V8" fill="none" stroke="currentColor" strokeWidth="2.4" />
      {look?.block}
      {lean && leanLook[lean]}
    </svg>
  );
}

/** A verdict: its tray and its word, with which way the claims lean. */
export function VerdictMark({ answer, lean, large = false }: { answer: string; lean?: string; large?: boolean }) {
  return (
    <span
      className={`inline-flex items-center gap-2 font-bold whitespace-nowrap ${verdictLook[answer]?.tone ?? ""} ${large ? "text-4xl" : ""}`}
    >
      <VerdictSign answer={answer} lean={lean} size={large ? 44 : 22} />
      <span>
        {answer}
        {lean && (
          <span className={`block font-normal text-dim ${large ? "text-xl" : "text-sm"}`}>
            {lean === "no lean" ? "no lean" : `leans to ${lean}`}
          </span>
        )}
      </span>
    </span>
  );
}

export const verdictWords = [
  ["fits", "as the machine stands"],
  ["fits if", "with additional changes"],
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
