import { useQuery } from "@tanstack/react-query";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { showSpan } from "../../ui/clock";
import { Button, Fault } from "../../ui/form";
import { useRole } from "../../ui/session";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

/** What a fault means for who has the machine next: which repairs fit before, and machines that could take the booking. */
export function Ahead({ fault: f }: { fault: Schemas["ReportedFault"] }) {
  const role = useRole();
  const { write, busy, fault } = useWrite();
  const query = useQuery({
    queryKey: keys.faultAhead(f.id),
    queryFn: () => unwrap(api.GET("/api/faults/{id}/ahead", { params: { path: { id: f.id } } })),
  });
  const a = query.data;
  if (!a?.next) return null;
  const b = a.next;
  const move = (o: Schemas["BookingOffer"]) => {
    const params = { path: { id: b.id } };
    const body = {
      version: b.version,
      machine: o.id,
      at: b.from,
      from: o.from,
      to: o.to,
      why: `a fault of ${b.machine}`,
    };
    return write(
      () => unwrap(api.POST("/api/bookings/{id}/offer", { params, body })),
      () => toast(`Proposed to ${b.who}: it moves when they say yes`),
    );
  };
  return (
    <section className="mt-2 border-l-4 border-look bg-look-wash px-3 py-2">
      <p>
        <b>
          ▲ {b.who} has it {a.minutes > 0 ? `in ${inWords(a.minutes)}` : "now"}:
        </b>{" "}
        {b.what}, {showSpan(b.from, b.to)}
      </p>
      {b.offer && (
        <p>
          Proposed by {b.offer.by}: {b.offerOn}, {showSpan(b.offer.from, b.offer.to)}. It waits for {b.who}.
        </p>
      )}
      {a.repairs.length > 0 && (
        <ul>
          {a.repairs.map((r) => (
            <li key={r.cause}>
              {r.fits ? "● fits before" : "✕ does not fit before"}: {r.cause.toLowerCase()}, about {r.minutes} min
            </li>
          ))}
        </ul>
      )}
      {b.id > 0 && !b.offer && a.offers.length > 0 && (
        <>
          <p className="mt-1 font-semibold">Propose to {b.who}:</p>
          <p className="flex flex-wrap gap-2">
            {a.offers.map((o) => (
              <Button key={`${o.id} ${o.from}`} disabled={busy} onClick={() => move(o)}>
                {o.id === b.machineId ? `later: ${showSpan(o.from, o.to)}` : `${o.name}, ${o.bay}`}
              </Button>
            ))}
          </p>
        </>
      )}
      {b.id > 0 && a.offers.length === 0 && <p>No able machine is free then{role === "lead" && "; call them"}.</p>}
      <Fault text={fault} />
    </section>
  );
}

function inWords(minutes: number): string {
  if (minutes < 90) return `${Math.round(minutes)} min`;
  const hours = minutes / 60;
  return hours < 48 ? `${Math.round(hours)} h` : `${Math.round(hours / 24)} days`;
}
