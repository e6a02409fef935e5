import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { State } from "../../ui/badges";
import { Field, Select } from "../../ui/form";
import { Loaded } from "../../ui/states";

const kib = (n: number) => `${Math.round(n * 10) / 10} KiB`;

/** What a feature that is wanted would leave of the flash, and what to drop for it. */
export function WantFeature({ id, features }: { id: number; features: readonly Schemas["Feature"][] }) {
  const [wanted, setWanted] = useState("");
  const query = useQuery({
    queryKey: keys.wantFeatures(id, wanted),
    enabled: !!wanted,
    queryFn: () =>
      unwrap(api.POST("/api/machines/{id}/firmware/want", { params: { path: { id } }, body: { features: [wanted] } })),
  });
  return (
    <div className="mt-3">
      <div className="max-w-md">
        <Field label="A feature that is wanted" htmlFor="want-feature">
          <Select
            id="want-feature"
            value={wanted}
            onChange={setWanted}
            options={features.map((f) => [f.name, f.kib ? `${f.name}, ${kib(f.kib)}` : f.name] as const)}
            empty="Choose one"
          />
        </Field>
      </div>
      {wanted && (
        <Loaded query={query} what="Working out what it leaves">
          {(w) => <Answer wanted={wanted} answer={w} />}
        </Loaded>
      )}
    </div>
  );
}

function Answer({ wanted, answer: w }: { wanted: string; answer: Schemas["Wanted"] }) {
  if (w.unknown.length > 0) return <p>What {wanted} takes is not stated in the catalogue.</p>;
  if (w.kib === 0) return <p>{wanted} is in the build already.</p>;
  if (w.free >= 0 && w.least < 0)
    return (
      <p>
        <State tone="look">Can't tell yet</State>: with {wanted}, between {kib(-w.least)} too much and {kib(w.free)}{" "}
        left. Record how much the bootloader takes.
      </p>
    );
  if (w.free >= 0)
    return (
      <p>
        <State tone="good">It fits</State>: with {wanted}, {kib(w.free)} would be left.
      </p>
    );
  return (
    <div role="status">
      <p>
        <State tone="bad">It does not fit</State>: with {wanted}, {kib(-w.free)} would be missing.
      </p>
      {w.smallest.length > 0 && (
        <p className="text-lg">
          Leave out: <b>{w.smallest.join(" and ")}</b>.
        </p>
      )}
      {w.drop.length > 0 && (
        <ul>
          {w.drop.map((d) => (
            <li key={d.feature}>
              {d.feature} frees {kib(d.kib)}
              {d.alone && ", enough alone"}
              {d.used ? `; used by: ${d.used}` : "; nothing on this machine needs it"}
            </li>
          ))}
        </ul>
      )}
      {w.bootloader && (
        <p>Or the bootloader alone would do, and every update from then on needs the in-circuit programmer.</p>
      )}
    </div>
  );
}
