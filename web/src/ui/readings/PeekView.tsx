import type { Schemas } from "../../api/client";
import { Button } from "../form";
import { Contradictions } from "./Contradictions";

/** What an answer says while it is typed: decoded, what it may be instead, and
 *  what it contradicts in the rest of the machine. */
export function PeekView({
  peek: p,
  decoded: marking,
  choose,
}: {
  peek: Schemas["Peek"];
  /** It is decoded letter by letter elsewhere. */
  decoded: boolean;
  choose: (text: string) => void;
}) {
  return (
    <div aria-live="polite" className="space-y-2">
      {!marking && p.cells.length > 0 && (
        <dl className="grid grid-cols-[auto_minmax(0,1fr)] gap-x-4 border-2 border-line px-3 py-2">
          {p.cells.map((c) => (
            <div key={c.label} className="contents">
              <dt className="text-dim">{c.label}</dt>
              <dd className="font-mono font-semibold">{c.value}</dd>
            </div>
          ))}
        </dl>
      )}
      {!marking && p.lookAlikes.length > 0 && (
        <p className="flex flex-wrap items-center gap-2">
          Looks alike:
          {p.lookAlikes.map((code) => (
            <Button key={code} className="font-mono" onClick={() => choose(code)}>
              {code}
            </Button>
          ))}
        </p>
      )}
      {p.note && <p className="text-dim">{p.note}</p>}
      <Contradictions list={p.against} title="This contradicts the rest of the machine" />
    </div>
  );
}
