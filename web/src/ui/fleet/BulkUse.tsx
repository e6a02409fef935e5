import { useState } from "react";
import { api, unwrap } from "../../api/client";
import { Button, Fault, Field, Select, TextInput } from "../form";
import { Panel } from "../Panel";
import { toast } from "../toast";
import { useWrite } from "../write";

const uses = [
  ["in use", "in use: free, within its proofs"],
  ["attended only", "attended only: somebody stays with it while it prints"],
  ["out of use", "out of use: nobody starts it"],
] as const;

/** Sets what several machines may be used for: all of them, or none. */
export function BulkUse({ ids, onClose }: { ids: readonly number[]; onClose: () => void }) {
  const [use, setUse] = useState<(typeof uses)[number][0]>("out of use");
  const [why, setWhy] = useState("");
  const { write, busy, fault } = useWrite();
  return (
    <Panel open onOpenChange={onClose} title={`Set availability of ${ids.length} machines`}>
      <form
        className="space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          write(
            () => unwrap(api.POST("/api/fleet/use", { body: { machines: [...ids], use, why } })),
            () => {
              toast(`${ids.length} machines are ${use}`);
              onClose();
            },
          );
        }}
      >
        <Field label="Availability" htmlFor="bulk-use">
          <Select id="bulk-use" value={use} onChange={(v) => setUse(v as typeof use)} options={uses} />
        </Field>
        <Field label="Why" htmlFor="bulk-why">
          <TextInput id="bulk-why" required maxLength={120} value={why} onChange={setWhy} />
        </Field>
        <Fault text={fault} />
        <Button type="submit" main disabled={busy}>
          Save
        </Button>
      </form>
    </Panel>
  );
}
