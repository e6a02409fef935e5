import { useNavigate } from "react-router";
import { api, unwrap } from "../../api/client";
import { Button, Fault } from "../../ui/form";
import { TextField } from "../../ui/forms/fields";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { Panel } from "../../ui/Panel";
import { useWrite } from "../../ui/write";

/** Opens a work order for another build for the parts that are fitted. */
export function FlashOrder({ id, onClose }: { id: number; onClose: () => void }) {
  const go = useNavigate();
  const form = useKeptForm(`flash-${id}`, { must: "", reason: "" });
  const { write, busy, fault } = useWrite();
  return (
    <Panel open onOpenChange={onClose} title="Flash another build">
      <p className="mb-4 text-dim">
        A work order: the way back, the build, the flash, this machine's own values again, and what has to be proven
        before it runs unattended. A machine that works is left alone: say why.
      </p>
      <form
        className="space-y-4"
        onSubmit={form.handleSubmit((said) =>
          write(
            () => unwrap(api.POST("/api/machines/{id}/flash", { params: { path: { id } }, body: said })),
            (made) => {
              form.forget();
              go(`/work/${made.id}`);
            },
          ),
        )}
      >
        <TextField
          control={form.control}
          name="must"
          label="What the build must have"
          hint="Besides what the fitted parts ask of it"
          maxLength={120}
        />
        <TextField control={form.control} name="reason" label="Why it is touched" required maxLength={300} />
        <Fault text={fault} />
        <Button type="submit" main disabled={busy}>
          Open the work order
        </Button>
      </form>
    </Panel>
  );
}
