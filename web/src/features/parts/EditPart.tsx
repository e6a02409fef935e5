import { api, type Schemas, unwrap } from "../../api/client";
import { SendForm } from "../../ui/forms/SendForm";
import { useEditForm } from "../../ui/forms/useEditForm";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { PartFieldsForm, partDraftOf, partFieldsOf } from "./PartFieldsForm";

export type Part = Schemas["PartSheet"];

/** Corrects what is written of a part. */
export function EditPart({ part, onClose }: { part: Part; onClose: () => void }) {
  const form = useEditForm(`part-${part.id}`, part.version, partDraftOf(part));
  return (
    <Panel
      open
      onOpenChange={() => {
        form.clear();
        onClose();
      }}
      title={`Edit ${part.model || "the part"}`}
    >
      <SendForm
        form={form}
        send={(typed) =>
          unwrap(
            api.PUT("/api/parts/{id}", {
              params: { path: { id: part.id } },
              body: { version: form.version, fields: partFieldsOf(typed) },
            }),
          )
        }
        onSent={() => {
          toast("Saved");
          onClose();
        }}
        button="Save"
      >
        <PartFieldsForm control={form.control} />
      </SendForm>
    </Panel>
  );
}
