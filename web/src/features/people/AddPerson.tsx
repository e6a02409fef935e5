import { api, unwrap } from "../../api/client";
import { TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useSecretForm } from "../../ui/forms/useKeptForm";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { PasswordField, type PersonDraft, PersonFields, skillsOf } from "./fields";

type Draft = PersonDraft & { name: string; password: string };

/** Adds somebody who may sign in. */
export function AddPerson({ onClose }: { onClose: () => void }) {
  const form = useSecretForm<Draft>({ name: "", password: "", display: "", role: "technician", skills: "" });
  return (
    <Panel open onOpenChange={onClose} title="Add a person">
      <SendForm
        form={form}
        send={(typed) => unwrap(api.POST("/api/people", { body: { ...typed, skills: skillsOf(typed.skills) } }))}
        onSent={(_, { display, name }) => {
          toast(`${display} can sign in as ${name}`);
          onClose();
        }}
        button="Add the person"
      >
        <TextField
          control={form.control}
          name="name"
          label="Signs in as"
          hint="Letters and digits, without blanks"
          required
          maxLength={40}
          autoComplete="off"
        />
        <PersonFields control={form.control} />
        <PasswordField control={form.control} name="password" label="First password" />
      </SendForm>
    </Panel>
  );
}
