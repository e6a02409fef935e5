import { api, unwrap } from "../../api/client";
import { SelectField, TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { useGo } from "../../ui/go";
import { Panel } from "../../ui/Panel";

/** Opens a work order for another head, on a machine whose heads are changed by hand. */
export function MountPanel({ id, heads, onClose }: { id: number; heads: readonly number[]; onClose: () => void }) {
  const go = useGo();
  const form = useKeptForm(`mount-${id}`, { head: "", reason: "" });
  return (
    <Panel open onOpenChange={onClose} title="Mount another head">
      <p className="mb-4 text-dim">
        A work order: the head off, the other on, its own values put in force. Where heads are not changed by hand there
        is nothing to mount.
      </p>
      <SendForm
        form={form}
        send={({ head, reason }) =>
          unwrap(api.POST("/api/work/mount", { body: { machineId: id, head: Number(head), reason } }))
        }
        onSent={(made) => go(`/work/${made.id}`)}
        button="Open the work order"
      >
        <SelectField
          control={form.control}
          name="head"
          label="Head that goes on"
          required
          empty="Choose"
          options={heads.map((n) => [String(n), `Head ${n}`] as const)}
        />
        <TextField control={form.control} name="reason" label="Why it is touched" required maxLength={300} />
      </SendForm>
    </Panel>
  );
}
