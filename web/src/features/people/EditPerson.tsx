import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { Button, Check, Fault } from "../../ui/form";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { PersonFields, type PersonFieldsValue, skillsOf } from "./fields";

export function EditPerson({ person: p, onClose }: { person: Schemas["Person"]; onClose: () => void }) {
  const [value, setValue] = useState<PersonFieldsValue>({
    display: p.display,
    role: p.role,
    skills: p.skills.join(", "),
  });
  const [disabled, setDisabled] = useState(p.disabledAt !== null);
  const { write, busy, fault } = useWrite();
  return (
    <Panel open onOpenChange={onClose} title={`${p.display}, signs in as ${p.name}`}>
      <form
        className="space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          const body = { ...value, skills: skillsOf(value.skills), disabled, version: p.version };
          write(
            () => unwrap(api.PUT("/api/people/{id}", { params: { path: { id: p.id } }, body })),
            () => {
              toast("Saved");
              onClose();
            },
          );
        }}
      >
        <PersonFields value={value} onChange={setValue} />
        <Check
          label="Switched off: cannot sign in; what they did stays on record"
          checked={disabled}
          onChange={setDisabled}
        />
        <Fault text={fault} />
        <Button type="submit" main disabled={busy}>
          Save
        </Button>
      </form>
    </Panel>
  );
}
