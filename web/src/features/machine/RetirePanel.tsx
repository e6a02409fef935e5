import { api, type Schemas, unwrap } from "../../api/client";
import { TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";

/** Takes a machine out of the fleet with its record kept, or brings it back. */
export function RetirePanel({ sheet, onClose }: { sheet: Schemas["Sheet"]; onClose: () => void }) {
  const form = useKeptForm(`retire-${sheet.id}`, { why: "" });
  const back = Boolean(sheet.retired);
  return (
    <Panel open onOpenChange={onClose} title={back ? `Bring ${sheet.name} back` : `Retire ${sheet.name}`}>
      <SendForm
        form={form}
        send={({ why }) =>
          unwrap(
            api.POST("/api/machines/{id}/retire", {
              params: { path: { id: sheet.id } },
              body: { why: back ? "" : why },
            }),
          )
        }
        onSent={() => {
          toast(back ? `${sheet.name} is back in the fleet` : `${sheet.name} is retired; its record stays`);
          onClose();
        }}
        button={back ? "Bring it back" : "Retire it"}
        tone={back ? "main" : "danger"}
      >
        {back ? (
          <p>It was retired: {sheet.retired}.</p>
        ) : (
          <TextField
            control={form.control}
            name="why"
            label="Why"
            hint="It leaves the fleet and the due list. Its record stays, and it can be brought back."
            required
            autoFocus
          />
        )}
      </SendForm>
    </Panel>
  );
}
