import type { Schemas } from "../../api/client";
import { Button, Cautions } from "../form";
import { Relief } from "./Relief";

/** Takes figures of the result over into a form: those of the keys that are wanted there. */
export type Use = { keys: readonly string[]; take: (figures: Schemas["Figure"][]) => void };

/** What a calculator comes to: the figures, how, what looks like a slip, and what to do next. */
export function SumResult({ result: r, use }: { result: Schemas["Result"]; use?: Use }) {
  const [main, ...others] = r.figures;
  const wanted = use?.keys.map((key) => r.figures.find((f) => f.key === key)).filter((f) => f !== undefined) ?? [];
  return (
    <div className="space-y-3">
      {main && (
        <p className="flex flex-wrap items-baseline gap-x-3">
          <span className="text-dim">{main.label}</span>
          <b className="font-mono text-3xl">
            {main.shown} {main.unit}
          </b>
          {use && wanted.length > 0 && wanted.length === use.keys.length && (
            <Button main onClick={() => use.take(wanted)}>
              Use {wanted.map((f) => f.shown).join(", ")} {wanted[0]?.unit}
            </Button>
          )}
        </p>
      )}
      {r.questions.map((q) => (
        <p key={q} className="border-l-4 border-look bg-look-wash px-3 py-2">
          <b>Is it right?</b> {q}
        </p>
      ))}
      <Cautions list={r.cautions} />
      {others.length > 0 && (
        <dl className="grid grid-cols-[minmax(0,1fr)_auto] gap-x-4">
          {others.map((f) => (
            <div key={f.key} className="col-span-2 grid grid-cols-subgrid border-b border-rule py-1">
              <dt>{f.label}</dt>
              <dd className="text-right font-mono">
                {f.shown} {f.unit}
              </dd>
            </div>
          ))}
        </dl>
      )}
      {r.relief && <Relief relief={r.relief} />}
      {r.formula.map((f) => (
        <p key={f} className="font-mono text-dim">
          {f}
        </p>
      ))}
      {r.remarks.map((x) => (
        <p key={x}>{x}</p>
      ))}
      {r.lines.length > 0 && (
        <pre className="overflow-x-auto border-2 border-line bg-leaf px-3 py-2 font-mono select-all">
          {r.lines.join("\n")}
        </pre>
      )}
      {r.next && (
        <p>
          <b>Next:</b> {r.next}
        </p>
      )}
    </div>
  );
}
