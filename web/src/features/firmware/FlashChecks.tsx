import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { State } from "../../ui/badges";
import { Field, Select } from "../../ui/form";
import { Loaded } from "../../ui/states";

const tones = { passes: "good", "look first": "look", stop: "bad" } as const;

/** A build held against the machine before anything is written. */
export function FlashChecks({ id, propose }: { id: number; propose: string }) {
  const [build, setBuild] = useState(0);
  const builds = useQuery({ queryKey: keys.builds(), queryFn: () => unwrap(api.GET("/api/builds")) });
  const query = useQuery({
    queryKey: keys.flashChecks(id, build),
    enabled: build > 0,
    queryFn: () => unwrap(api.GET("/api/machines/{id}/firmware/checks/{build}", { params: { path: { id, build } } })),
  });
  return (
    <>
      <Field label="Check a build against this machine" htmlFor="check-build">
        <Select
          id="check-build"
          value={build ? String(build) : ""}
          onChange={(v) => setBuild(Number(v))}
          options={(builds.data?.builds ?? []).map((b) => [String(b.id), b.name] as const)}
          empty="Choose a build"
        />
      </Field>
      <p className="text-dim">
        A file name that this board has not seen: <b className="font-mono">{propose}</b>
      </p>
      {build > 0 && (
        <Loaded query={query} what="Checking the build against the machine">
          {(c) => (
            <>
              <ul>
                {c.checks.map((g) => (
                  <li key={g.what + g.says} className="border-b border-rule py-1">
                    <State tone={tones[g.level]}>{g.level}</State> <b>{g.what}</b>: {g.says}
                  </li>
                ))}
              </ul>
              <p className="mt-2">
                {c.checks.some((g) => g.level === "stop")
                  ? "Do not flash it as it is."
                  : "Flashing is an order with its steps, its way back and this machine’s own values again:"}{" "}
                <Link to={`/machine/${id}/builds`} className="underline underline-offset-4">
                  Runs and flashing
                </Link>
              </p>
            </>
          )}
        </Loaded>
      )}
    </>
  );
}
