import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, take } from "../api/client";
import { Panel } from "../parts/Panel";
import { Loaded } from "../parts/states";

/** Which kit to ask about on this machine. */
export function AskPanel({ machineId, name, onClose }: { machineId: number; name: string; onClose: () => void }) {
  const kits = useQuery({ queryKey: ["kits"], queryFn: () => take(api.GET("/api/kits")) });
  return (
    <Panel open onOpenChange={onClose} title={`What would you fit to ${name}?`}>
      <Loaded query={kits} what="Reading the kits">
        {(list) => (
          <ul className="space-y-3">
            {list.map((k) => (
              <li key={k.key}>
                <Link
                  to={`/ask/${k.key}/${machineId}`}
                  className="block border-2 border-line px-4 py-3 hover:border-brass hover:bg-wash"
                >
                  <b className="block text-lg">{k.name}</b>
                  <span className="text-dim">{k.about}</span>
                </Link>
              </li>
            ))}
          </ul>
        )}
      </Loaded>
    </Panel>
  );
}
