import { useQuery } from "@tanstack/react-query";
import { useDeferredValue } from "react";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { Button } from "../form";
import { Contradictions } from "./Contradictions";

/** What an answer says while it is typed: decoded, what it may be instead, and
 *  what it contradicts in the rest of the machine. */
export function PeekView({
  machineId,
  factKey,
  decoded: marking,
  text,
  choose,
}: {
  machineId: number;
  factKey: string;
  /** It is decoded letter by letter elsewhere. */
  decoded: boolean;
  text: string;
  choose: (text: string) => void;
}) {
  const typed = useDeferredValue(text.trim());
  const query = useQuery({
    queryKey: keys.peek(machineId, factKey, typed),
    queryFn: () =>
      unwrap(
        api.GET("/api/machines/{id}/peek", {
          params: { path: { id: machineId }, query: { key: factKey, text: typed } },
        }),
      ),
    enabled: typed !== "",
    placeholderData: (before) => before,
  });
  const p = typed ? query.data : undefined;
  if (!p) return null;
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
