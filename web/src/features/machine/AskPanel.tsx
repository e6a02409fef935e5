import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { VerdictMark } from "../../ui/badges";
import { Field, TextInput } from "../../ui/form";
import { Panel } from "../../ui/Panel";
import { Loaded } from "../../ui/states";

/** More rows than these nobody reads. */
const mostRows = 100;

/** Every kit with its verdict on this machine, those that fit first. */
export function AskPanel({ machineId, name, onClose }: { machineId: number; name: string; onClose: () => void }) {
  const query = useQuery({
    queryKey: keys.machineKits(machineId),
    queryFn: () => unwrap(api.GET("/api/machines/{id}/kits", { params: { path: { id: machineId } } })),
  });
  const [text, setText] = useState("");
  return (
    <Panel open onOpenChange={onClose} title={`What would you fit to ${name}?`}>
      <Loaded query={query} what={`Judging every kit on ${name}`}>
        {(m) => {
          const kits = m.rows.filter((k) => `${k.name} ${k.what}`.toLowerCase().includes(text.toLowerCase()));
          return (
            <>
              <Field label="Part of its name or kind" htmlFor="ask-text">
                <TextInput id="ask-text" value={text} onChange={setText} />
              </Field>
              {m.unlocks.map((u) => (
                <p key={u.version} className="mt-3 border-l-4 border-cond px-3 py-1">
                  Leave the build alone unless one of these is wanted: version {u.version} or later would make possible{" "}
                  <b>{u.kits.join(", ")}</b>.
                </p>
              ))}
              {m.broken.map((b) => (
                <p key={b} className="mt-3 border-l-4 border-bad px-3 py-1">
                  Not judged: {b}
                </p>
              ))}
              <ul className="mt-3">
                {kits.slice(0, mostRows).map((k) => (
                  <li key={k.key} className="border-b border-rule">
                    <Link
                      to={`/ask/${k.key}/${machineId}`}
                      className="flex min-h-12 flex-wrap items-center justify-between gap-x-4 px-2 py-1 hover:bg-wash"
                    >
                      <span>
                        <b>{k.name}</b> <span className="text-dim">{k.what}</span>
                      </span>
                      <VerdictMark answer={k.answer} lean={k.lean || undefined} />
                      <span className="w-full text-sm text-dim">{k.headline}</span>
                    </Link>
                  </li>
                ))}
              </ul>
              {kits.length > mostRows && (
                <p className="mt-3">{kits.length - mostRows} more: write a part of the name or kind.</p>
              )}
              {kits.length === 0 && <p className="mt-3">No kit has this in its name or kind.</p>}
            </>
          );
        }}
      </Loaded>
    </Panel>
  );
}
