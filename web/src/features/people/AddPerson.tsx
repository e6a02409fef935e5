import { useState } from "react";
import { api, unwrap } from "../../api/client";
import { Button, Fault, Field, TextInput } from "../../ui/form";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { PasswordField, PersonFields, type PersonFieldsValue, skillsOf } from "./fields";

export function AddPerson({ onClose }: { onClose: () => void }) {
  const [name, setName] = useState("");
  const [password, setPassword] = useState("");
  const [value, setValue] = useState<PersonFieldsValue>({ display: "", role: "technician", skills: "" });
  const { write, busy, fault } = useWrite();
  return (
    <Panel open onOpenChange={onClose} title="Add a person">
      <form
        className="space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          const body = { ...value, name, password, skills: skillsOf(value.skills) };
          write(
            () => unwrap(api.POST("/api/people", { body })),
            () => {
              toast(`${value.display} can sign in as ${name}`);
              onClose();
            },
          );
        }}
      >
        <Field label="Signs in as" htmlFor="person-name" hint="Letters and digits, without blanks">
          <TextInput id="person-name" required maxLength={40} autoComplete="off" value={name} onChange={setName} />
        </Field>
        <PersonFields value={value} onChange={setValue} />
        <PasswordField id="person-password" label="First password" value={password} onChange={setPassword} />
        <Fault text={fault} />
        <Button type="submit" main disabled={busy}>
          Add the person
        </Button>
      </form>
    </Panel>
  );
}
