import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { showMoment } from "../../ui/dates";
import { Button, Fault } from "../../ui/form";
import { LinkButton } from "../../ui/LinkButton";
import { useSession } from "../../ui/session";
import { useWrite } from "../../ui/write";
import { ParkPanel } from "./ParkPanel";
import type { Order } from "./StepList";
import { TakeLockPanel } from "./TakeLockPanel";

/** Whose locks are on the machine, and the ways to put one on, take it off, or leave the work. */
export function Locks({ order }: { order: Order }) {
  const session = useSession();
  const [parking, setParking] = useState(false);
  const [taking, setTaking] = useState<Schemas["Lock"]>();
  const { write, busy, fault } = useWrite();
  const where = { params: { path: { id: order.id } } };
  const on = order.locks.filter((l) => !l.off);
  const mine = on.find((l) => l.account === session.account);
  return (
    <section aria-label="Locks" className="mb-3 max-w-5xl border-2 border-line bg-leaf px-3 py-2">
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <b>Locked out</b>
        {on.length === 0 && <span className="text-dim">No lock on it. Add yours before you reach in.</span>}
        {on.map((l) => (
          <span key={l.id} className="flex items-center gap-2">
            <span>
              <span aria-hidden="true">■ </span>
              {l.name}, since {showMoment(l.putOn)}
            </span>
            {l !== mine && session.role === "lead" && (
              <Button className="compact:min-h-8" onClick={() => setTaking(l)}>
                Take it off …
              </Button>
            )}
          </span>
        ))}
        <span className="ml-auto flex flex-wrap gap-2 max-sm:ml-0">
          {mine ? (
            <>
              <LinkButton to={`/work/${order.id}/tag`}>Print your tag</LinkButton>
              <Button
                disabled={busy}
                onClick={() =>
                  write(() =>
                    unwrap(
                      api.POST("/api/work/{id}/locks/{lock}/off", {
                        params: { path: { id: order.id, lock: mine.id } },
                        body: { contacted: false },
                      }),
                    ),
                  )
                }
              >
                Take my lock off
              </Button>
            </>
          ) : (
            <Button disabled={busy} onClick={() => write(() => unwrap(api.POST("/api/work/{id}/lock", where)))}>
              Add my lock
            </Button>
          )}
          {!order.parked && <Button onClick={() => setParking(true)}>Pause work …</Button>}
        </span>
      </div>
      <Fault text={fault} />
      {order.parked && (
        <Parked
          parked={order.parked}
          busy={busy}
          onResume={() => write(() => unwrap(api.POST("/api/work/{id}/resume", where)))}
        />
      )}
      {parking && <ParkPanel order={order} onClose={() => setParking(false)} />}
      {taking && <TakeLockPanel order={order} lock={taking} onClose={() => setTaking(undefined)} />}
    </section>
  );
}

function Parked({ parked: p, busy, onResume }: { parked: Schemas["Parked"]; busy: boolean; onResume: () => void }) {
  const lines: [string, string | undefined][] = [
    ["Loose or unplugged", p.loose],
    ["Screws and parts", p.screws],
    ["Waits for", p.waits],
  ];
  return (
    <div className="mt-2 border-l-4 border-look bg-look-wash px-3 py-2">
      <p>
        <b>Paused</b> by {p.by} on {showMoment(p.at ?? "")}: {p.why}
      </p>
      <dl>
        {lines
          .filter(([, text]) => text)
          .map(([name, text]) => (
            <div key={name} className="flex flex-wrap gap-x-2">
              <dt className="text-dim">{name}:</dt>
              <dd className="font-semibold">{text}</dd>
            </div>
          ))}
      </dl>
      <Button main className="mt-2" disabled={busy} onClick={onResume}>
        Resume the work
      </Button>
    </div>
  );
}
