import { useSession } from "../session";

/** What comes before any report: people first. */
export function LeaveIt() {
  const { shop } = useSession();
  return (
    <div className="border-l-4 border-bad bg-bad-wash px-4 py-3">
      <p className="font-bold">Smoke, sparks, a burning smell, a shock, a heater that does not stop?</p>
      <ol className="list-decimal pl-6">
        <li>Leave it. Keep others away.</li>
        <li>Switch it off and pull its plug, only if you can reach them safely.</li>
        <li>
          Call for help{shop.contact && <b>: {shop.contact.replace(/[.\s]+$/, "")}</b>}. If it burns: everybody out,
          then the fire service.
        </li>
        <li>Report it here afterwards.</li>
      </ol>
    </div>
  );
}
