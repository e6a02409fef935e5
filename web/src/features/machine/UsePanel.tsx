import { api, type Schemas, unwrap } from "../../api/client";
import { RadioField, TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";

const uses = [
  ["in use", "Free to use, within its proofs"],
  ["attended only", "Somebody stays with it while it prints"],
  ["out of use", "Nobody starts it"],
] as const;

/** What a machine may be used for from now on, and why. */
export function UsePanel({ sheet, onClose }: { sheet: Schemas["Sheet"]; onClose: () => void }) {
  const form = useKeptForm(`use-${sheet.id}`, { use: sheet.use.use, why: "" });
  return (
    <Panel open onOpenChange={onClose} title={`Set availability of ${sheet.name}`}>
      <SendForm
        form={form}
        send={(body) => unwrap(api.POST("/api/machines/{id}/use", { params: { path: { id: sheet.id } }, body }))}
        onSent={(_, { use }) => {
          toast(`${sheet.name}: ${use}`);
          onClose();
        }}
        button="Save"
      >
        <RadioField
          control={form.control}
          name="use"
          legend="Use"
          options={uses.map(([key, words]) => [
            key,
            <>
              <b>{key}</b> <span className="text-dim">{words}</span>
            </>,
          ])}
        />
        <TextField control={form.control} name="why" label="Why" required />
      </SendForm>
    </Panel>
  );
}
