import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { link } from "./Section";

/** Dangers that somebody has taken, until their fault is closed; those that nobody has taken stand on every page. */
export function TakenDangers() {
  const query = useQuery({ queryKey: keys.dangers(), queryFn: () => unwrap(api.GET("/api/dangers")) });
  const taken = (query.data ?? []).filter((d) => !d.waiting);
  if (taken.length === 0) return null;
  return (
    <ul className="mb-2">
      {taken.map(({ fault: f, what }) => (
        <li key={f.id} className="border-l-4 border-bad bg-bad-wash px-4 py-2">
          <b>
            <span aria-hidden="true">✖ </span>
            Danger on {f.machine}: {what}.
          </b>{" "}
          {f.mine ? "You have" : `${f.takenBy} has`} taken it. The machine stays closed until the fault is.{" "}
          <Link className={link} to={`/faults?fault=${f.id}`}>
            Open the fault
          </Link>
        </li>
      ))}
    </ul>
  );
}
