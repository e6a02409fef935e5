import { api, type Schemas, unwrap } from "../../api/client";
import { RadioField, TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";

/** Whether the firmware is left alone, or what it waits for. */
export function Decide({
  id,
  firmware,
  onClose,
}: {
  id: number;
  firmware: Schemas["FirmwareOf"];
  onClose: () => void;
}) {
  const form = useKeptForm(`firmware-decision-${id}`, {
    answer: "leave it alone" as Schemas["FlashDecision"]["answer"],
    reason: firmware.decision ? "" : "it works",
    unlocks: "",
  });
  return (
    <Panel open onOpenChange={onClose} title={`The firmware of ${firmware.machine}`}>
      <SendForm
        form={form}
        send={(body) => unwrap(api.POST("/api/machines/{id}/firmware/decision", { params: { path: { id } }, body }))}
        onSent={() => {
          toast("The decision is on record");
          onClose();
        }}
        button="Save"
      >
        <RadioField
          control={form.control}
          name="answer"
          legend="What is to be done"
          options={[
            ["leave it alone", "Leave it alone"],
            ["wanted", "A new build is wanted"],
          ]}
        />
        <TextField
          control={form.control}
          name="reason"
          label="Why"
          hint="A safety gap, an upgrade that needs it, a feature somebody needs, a fault it cures. “It is old” is no reason."
          required
          maxLength={300}
        />
        <TextField control={form.control} name="unlocks" label="What it would make possible" maxLength={300} />
      </SendForm>
    </Panel>
  );
}
