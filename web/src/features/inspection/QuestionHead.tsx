import { useEffect, useRef } from "react";
import type { Schemas } from "../../api/client";
import { GradeMark } from "../../ui/badges";
import { Cautions } from "../../ui/form";
import { Siblings } from "./Siblings";

/** What is asked: the machine, how far it is opened, where to look with which
 *  caution, the question, and what is known so far. It takes the focus. */
export function QuestionHead({
  q,
  depths,
  left,
  minutes,
  fresh,
  draft,
}: {
  q: Schemas["AskedQuestion"];
  depths: readonly string[];
  left: number;
  minutes: number;
  /** How many open questions this look answers. */
  fresh: number;
  draft: string;
}) {
  const heading = useRef<HTMLHeadingElement>(null);
  useEffect(() => {
    heading.current?.focus();
    scrollTo(0, 0);
  }, []);
  return (
    <>
      <header className="flex flex-wrap items-baseline justify-between gap-x-4 border-b-2 border-ink pb-2">
        <p className="text-3xl font-extrabold">
          {q.machine} <span className="text-lg font-normal text-dim">{q.bay}</span>
        </p>
        <p className="text-dim">
          {left} to ask, about {minutes} min
        </p>
      </header>
      <ol className="flex flex-wrap gap-x-1 text-sm" aria-label="How far the machine is opened">
        {depths.map((d, i) => (
          <li
            key={d}
            aria-current={i === q.inspection.depth ? "step" : undefined}
            className={`border-b-4 px-2 pb-0.5 ${i === q.inspection.depth ? "border-accent font-bold" : "border-line text-dim"}`}
          >
            {d}
          </li>
        ))}
      </ol>
      <section className="border-l-4 border-accent bg-leaf px-5 py-3">
        <p className="text-lg font-bold">
          {q.inspection.title}
          <span className="font-normal text-dim">
            {" "}
            · {q.inspection.minutes} min{fresh > 1 && `, answers ${fresh} questions`}
          </span>
        </p>
        <p>{q.inspection.how}</p>
        {q.inspection.risk && <p className="font-semibold text-bad">Risk: {q.inspection.risk}.</p>}
      </section>
      <Cautions list={q.inspection.cautions} />
      <div>
        <h1 ref={heading} tabIndex={-1} className="text-4xl font-extrabold outline-none">
          {q.label}
          {q.unit && <span className="text-2xl font-normal text-dim">, {q.unit}</span>}?
        </h1>
        <p className="mt-1 flex flex-wrap items-center gap-x-3 text-dim">
          {q.standsAs !== "unknown" && (
            <>
              <span>
                So far: <b>{q.stands}</b>
              </span>
              <GradeMark grade={q.standsAs} />
            </>
          )}
          {q.pending.length > 0 && <span>Waits for it: {q.pending.join(", ")}</span>}
        </p>
        {q.needed.length > 0 && <p className="mt-1 text-look">It would tell: {q.needed.join("; ")}.</p>}
        {q.safety && (
          <p className="mt-1 font-semibold text-bad">
            <span aria-hidden="true">✖ </span>Safety: {q.safety}.
          </p>
        )}
        {q.hint && <p className="mt-1 text-dim">A hint only: {q.hint}.</p>}
        <Siblings others={q.others} draft={draft} />
      </div>
    </>
  );
}
