import { api, unwrap } from "../../api/client";
import { SelectField, TextField } from "../forms/fields";
import { SendForm } from "../forms/SendForm";
import { useKeptForm } from "../forms/useKeptForm";
import { Panel } from "../Panel";
import { toast } from "../toast";

const uses = [
  ["in use", "in use: free, within its proofs"],
  ["attended only", "attended only: somebody stays with it while it prints"],
  ["out of use", "out of use: nobody starts it"],
] as const;

type Draft = { use: (typeof uses)[number][0]; why: string };

/** Sets what several machines may be used for: all of them, or none. */
export function BulkUse({ ids, onClose }: { ids: readonly number[]; onClose: () => void }) {
  const form = useKeptForm<Draft>("bulk-use", { use: "out of use", why: "" });
  return (
    <Panel open onOpenChange={onClose} title={`Set availability of ${ids.length} machines`}>
      <SendForm
        form={form}
        send={(typed) => unwrap(api.POST("/api/fleet/use", { body: { machines: [...ids], ...typed } }))}
        onSent={(_, { use }) => {
          toast(`${ids.length} machines are ${use}`);
          onClose();
        }}
        button="Save"
      >
        <SelectField control={form.control} name="use" label="Availability" options={uses} />
        <TextField control={form.control} name="why" label="Why" required maxLength={120} />
      </SendForm>
    </Panel>
  );
}
