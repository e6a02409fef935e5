import { api, type Schemas, unwrap } from "../../api/client";
import { SendForm } from "../../ui/forms/SendForm";
import { useSecretForm } from "../../ui/forms/useKeptForm";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { PasswordField } from "./fields";

/** Gives a person a new password, who is then signed out everywhere. */
export function ResetPassword({ person: p, onClose }: { person: Schemas["Person"]; onClose: () => void }) {
  const form = useSecretForm({ password: "" });
  return (
    <Panel open onOpenChange={onClose} title={`A new password for ${p.display}`}>
      <SendForm
        form={form}
        send={(body) => unwrap(api.POST("/api/people/{id}/password", { params: { path: { id: p.id } }, body }))}
        onSent={() => {
          toast(`${p.display} has a new password and is signed out everywhere`);
          onClose();
        }}
        button="Set the password"
      >
        <p>Tell it to them in person; they can change it under their own name.</p>
        <PasswordField control={form.control} name="password" label="New password" />
      </SendForm>
    </Panel>
  );
}
