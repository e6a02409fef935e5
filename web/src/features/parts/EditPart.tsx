import { api, type Schemas, unwrap } from "../../api/client";
import { useEdit } from "../../ui/draft";
import { EditConflict } from "../../ui/EditConflict";
import { Button, Fault } from "../../ui/form";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { PartFieldsForm, partDraftOf, partFieldsOf } from "./PartFieldsForm";

export type Part = Schemas["PartSheet"];

export function EditPart({ part, onClose }: { part: Part; onClose: () => void }) {
  const edit = useEdit(`part-${part.id}`, part.version, partDraftOf(part));
  const { write, busy, fault } = useWrite();
  return (
    <Panel
      open
      onOpenChange={() => {
        edit.clear();
        onClose();
      }}
      title={`Edit ${part.model || "the part"}`}
    >
      <form
        className="space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          write(
            () =>
              unwrap(
                api.PUT("/api/parts/{id}", {
                  params: { path: { id: part.id } },
                  body: { version: edit.version, fields: partFieldsOf(edit.value) },
                }),
              ),
            () => {
              edit.clear();
              toast("Saved");
              onClose();
            },
          );
        }}
      >
        <PartFieldsForm draft={edit.value} onChange={edit.set} />
        <Fault text={fault} />
        <EditConflict edit={edit} busy={busy} />
        <Button type="submit" main disabled={busy}>
          Save
        </Button>
      </form>
    </Panel>
  );
}
