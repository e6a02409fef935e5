import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { Button, Check, Fault } from "../../ui/form";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

/** Needs that would last longer than the fitting: they can be moved to the model, once for all. */
export function LastingOffer({ entry, edited }: { entry: Schemas["KitEntry"]; edited: boolean }) {
  const key = entry.kit.key;
  const query = useQuery({
    queryKey: keys.lasting(key, entry.version),
    queryFn: () => unwrap(api.GET("/api/kits/{key}/lasting", { params: { path: { key } } })),
    enabled: entry.version > 0 && !entry.shipped,
  });
  const [left, setLeft] = useState<number[]>([]);
  const { write, busy, fault } = useWrite();
  const offers = query.data?.offers ?? [];
  const first = offers[0];
  if (!first) return null;
  const at = offers.filter((o) => !left.includes(o.at)).map((o) => o.at);
  return (
    <section aria-label="Needs that last" className="border-l-4 border-cond bg-leaf px-4 py-2">
      <p>
        These needs last as long as the part is fitted. Moved to the model <b>{first.model}</b>, they also hold when
        another kit, or nobody's kit, changes something later.
      </p>
      <ul>
        {offers.map((o) => (
          <li key={o.at}>
            <Check
              label={o.label}
              checked={!left.includes(o.at)}
              onChange={(on) => setLeft(on ? left.filter((x) => x !== o.at) : [...left, o.at])}
            />
          </li>
        ))}
      </ul>
      <Fault text={fault} />
      <Button
        disabled={busy || edited || at.length === 0}
        onClick={() =>
          write(
            () =>
              unwrap(
                api.POST("/api/kits/{key}/lasting", {
                  params: { path: { key } },
                  body: { version: entry.version, at },
                }),
              ),
            () => toast(`Moved to the model ${first.model}`),
          )
        }
      >
        Move {at.length === 1 ? "this need" : `these ${at.length} needs`} to the model
      </Button>
      {edited && <p className="text-dim">Save or undo your changes first.</p>}
    </section>
  );
}
