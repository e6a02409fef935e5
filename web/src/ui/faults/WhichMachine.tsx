import { useQuery } from "@tanstack/react-query";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { Button } from "../form";

/** The machine that is reported, to be recognised before anything is sent, with a way to choose another. */
export function WhichMachine({ machine, onWrong }: { machine: { id: number; name: string }; onWrong?: () => void }) {
  const query = useQuery({
    queryKey: keys.machineUse(machine.id),
    queryFn: () => unwrap(api.GET("/api/machines/{id}/usable", { params: { path: { id: machine.id } } })),
  });
  const m = query.data;
  return (
    <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
      {m && m.photo > 0 && (
        <img
          src={`/api/photos/${m.photo}?small=true`}
          alt={`From the record of ${machine.name}`}
          className="h-20 border-2 border-line"
        />
      )}
      <p className="min-w-0 flex-1">
        <b className="block text-2xl">{machine.name}</b>
        {m && <span className="text-dim">{[m.bay, m.size].filter(Boolean).join(" · ")}</span>}
      </p>
      {onWrong && <Button onClick={onWrong}>Wrong machine?</Button>}
    </div>
  );
}
