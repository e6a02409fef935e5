import { api, type Schemas, unwrap } from "../../api/client";
import { useEdit } from "../../ui/draft";
import { EditConflict } from "../../ui/EditConflict";
import { Button, Check, Fault } from "../../ui/form";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { PersonFields, skillsOf } from "./fields";

export function EditPerson({ person: p, onClose }: { person: Schemas["Person"]; onClose: () => void }) {
  const edit = useEdit(`person-${p.id}`, p.version, {
    display: p.display,
    role: p.role,
    skills: p.skills.join(", "),
    disabled: p.disabledAt !== null,
  });
  const { write, busy, fault } = useWrite();
  return (
    <Panel open onOpenChange={onClose} title={`${p.display}, signs in as ${p.name}`}>
      <form
        className="space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          const body = { ...edit.value, skills: skillsOf(edit.value.skills), version: edit.version };
          write(
            () => unwrap(api.PUT("/api/people/{id}", { params: { path: { id: p.id } }, body })),
            () => {
              edit.clear();
              toast("Saved");
              onClose();
            },
          );
        }}
      >
        <PersonFields value={edit.value} onChange={(v) => edit.set({ ...edit.value, ...v })} />
        <Check
          label="Switched off: cannot sign in; what they did stays on record"
          checked={edit.value.disabled}
          onChange={(disabled) => edit.set({ ...edit.value, disabled })}
        />
        <Fault text={fault} />
        <EditConflict edit={edit} busy={busy} />
        <Button type="submit" main disabled={busy}>
          Save
        </Button>
      </form>
    </Panel>
  );
}
