import { useInfiniteQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, type Schemas, unwrap } from "../api/client";
import { keys } from "../api/keys";
import { showMoment } from "./dates";
import { Button } from "./form";
import { useMayWork } from "./session";
import { Loaded } from "./states";

export type ChangesOf = { machine?: number; part?: number; thing?: string; key?: string; account?: string };

/** Who did what, newest first, with what it was before. */
export function Changes({ of, machines = false }: { of: ChangesOf; machines?: boolean }) {
  const query = useInfiniteQuery({
    queryKey: keys.changes(of),
    initialPageParam: 0,
    queryFn: ({ pageParam }) =>
      unwrap(api.GET("/api/changes", { params: { query: { ...of, before: pageParam, limit } } })),
    getNextPageParam: (last) => (last.length < limit ? undefined : last.at(-1)?.id),
  });
  return (
    <Loaded query={query} what="Reading who did what">
      {({ pages }) => (
        <>
          <ol className="bg-leaf">
            {pages.flat().map((c) => (
              <One key={c.id} change={c} machines={machines} />
            ))}
          </ol>
          {pages[0]?.length === 0 && <p className="text-dim">Nothing was changed since this is noted.</p>}
          {query.hasNextPage && (
            <Button className="mt-3" disabled={query.isFetchingNextPage} onClick={() => query.fetchNextPage()}>
              {query.isFetchingNextPage ? "Reading …" : "Earlier changes"}
            </Button>
          )}
        </>
      )}
    </Loaded>
  );
}

const limit = 40;

function One({ change, machines }: { change: Schemas["Change"]; machines: boolean }) {
  const first = change.lines.find((l) => l.machineId)?.machineId;
  return (
    <li className="border-b border-rule px-3 py-1.5">
      <p>
        <b>{worded(change.action)}</b>
        {machines && first ? (
          <>
            {" "}
            on{" "}
            <Link className="underline" to={`/machine/${first}`}>
              {change.machine}
            </Link>
          </>
        ) : null}
        <span className="text-dim">
          , {showMoment(change.at)}, {change.by}
          {change.account && change.account !== change.by ? ` (account ${change.account})` : ""}
          {!change.account && " (no account)"}
        </span>
      </p>
      <ul className="pl-4 text-[0.95rem]">
        {change.lines.map((l, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: lines have no identity but their place
          <li key={i} className="break-words">
            {l.done === "noted" ? l.text : `${l.what} ${l.done}${l.text && ": "}${l.text}`}
            {l.partId ? (
              <>
                {" "}
                <Link className="underline" to={`/part/${l.partId}`}>
                  part {l.partId}
                </Link>
              </>
            ) : null}
          </li>
        ))}
        {change.more > 0 && <li className="text-dim">and {change.more} more</li>}
      </ul>
    </li>
  );
}

/** An operation's name as a person reads it. */
function worded(action: string) {
  const text = action.replaceAll("-", " ");
  return text.slice(0, 1).toUpperCase() + text.slice(1);
}

/** The changes of one thing, read when somebody opens them. */
export function ChangesOfThing({ of }: { of: ChangesOf }) {
  const [open, setOpen] = useState(false);
  const mayWork = useMayWork();
  if (!mayWork) return null;
  return (
    <details className="no-print mt-8" onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary className="min-h-11 cursor-pointer py-2 text-xl font-bold">Who did what</summary>
      {open && <Changes of={of} />}
    </details>
  );
}
