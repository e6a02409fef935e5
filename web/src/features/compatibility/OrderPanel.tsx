import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { answerWords } from "../../ui/badges";
import { Button } from "../../ui/form";
import { showMoney } from "../../ui/money";
import { Panel } from "../../ui/Panel";
import { Loaded } from "../../ui/states";
import { OrderLines } from "./OrderLines";
import { saveCSV } from "./orderFile";
import { PlaceOrder } from "./PlaceOrder";

/** What has to be bought for what was chosen. */
export function OrderPanel({
  picks,
  onClose,
  onClear,
}: {
  picks: readonly string[];
  onClose: () => void;
  onClear: () => void;
}) {
  const body = {
    picks: picks.map((p) => {
      const at = p.lastIndexOf(" ");
      return { kit: p.slice(0, at), machineId: Number(p.slice(at + 1)) };
    }),
  };
  const [placing, setPlacing] = useState(false);
  const query = useQuery({
    queryKey: keys.orderFor(picks),
    queryFn: () => unwrap(api.POST("/api/orders", { body })),
  });
  return (
    <Panel open onOpenChange={onClose} title="Order list">
      <Loaded query={query} what="Adding it up">
        {(o) => (
          <>
            {o.refused.map((r) => (
              <p key={r} className="mb-2 border-l-4 border-look bg-look-wash px-3 py-2">
                Not to be ordered: {r}
              </p>
            ))}
            {o.waiting.map((w) => (
              <p key={w.kit + w.lean} className="mb-2 border-l-4 border-look bg-look-wash px-3 py-2">
                {w.kit}, {answerWords("look first", w.lean)}: <b>{w.count}</b>. Not ordered before somebody has looked:{" "}
                {w.machines.join(", ")}.
              </p>
            ))}
            <OrderLines lines={o.lines} />
            {o.pilots.map((x) => (
              <p key={x} className="mt-2 border-l-4 border-look bg-look-wash px-3 py-2">
                {x}
              </p>
            ))}
            <p className="mt-3 text-xl">
              Together <b>{showMoney(o.price)}</b>, {(o.minutes / 60).toFixed(1)} hours of work.
            </p>
            <div className="no-print mt-4 flex gap-2">
              <Button main aria-expanded={placing} onClick={() => setPlacing(!placing)}>
                Place the order
              </Button>
              <Button onClick={() => print()}>Print</Button>
              <Button onClick={() => saveCSV(body)}>As CSV</Button>
              <Button onClick={onClear}>Clear</Button>
            </div>
            {placing && <PlaceOrder lines={o.lines} onPlaced={onClear} />}
          </>
        )}
      </Loaded>
    </Panel>
  );
}
