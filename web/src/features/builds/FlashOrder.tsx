import { api, unwrap } from "../../api/client";
import { TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { useGo } from "../../ui/go";
import { Panel } from "../../ui/Panel";

/** Opens a work order for another build for the parts that are fitted. */
export function FlashOrder({ id, onClose }: { id: number; onClose: () => void }) {
  const go = useGo();
  const form = useKeptForm(`flash-${id}`, { must: "", reason: "" });
  return (
    <Panel open onOpenChange={onClose} title="Flash another build">
      <p className="mb-4 text-dim">
        A work order: the way back, the build, the flash, this machine's own values again, and what has to be proven
        before it runs unattended. A machine that works is left alone: say why.
      </p>
      <SendForm
        form={form}
        send={(body) => unwrap(api.POST("/api/machines/{id}/flash", { params: { path: { id } }, body }))}
        onSent={(made) => go(`/work/${made.id}`)}
        button="Open the work order"
      >
        <TextField
          control={form.control}
          name="must"
          label="What the build must have"
          hint="Besides what the fitted parts ask of it"
          maxLength={120}
        />
        <TextField control={form.control} name="reason" label="Why it is touched" required maxLength={300} />
      </SendForm>
    </Panel>
  );
}
