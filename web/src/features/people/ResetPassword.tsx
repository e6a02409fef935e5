import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { Button, Fault } from "../../ui/form";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { PasswordField } from "./fields";

export function ResetPassword({ person: p, onClose }: { person: Schemas["Person"]; onClose: () => void }) {
  const [password, setPassword] = useState("");
  const { write, busy, fault } = useWrite();
  return (
    <Panel open onOpenChange={onClose} title={`A new password for ${p.display}`}>
      <form
        className="space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          write(
            () => unwrap(api.POST("/api/people/{id}/password", { params: { path: { id: p.id } }, body: { password } })),
            () => {
              toast(`${p.display} has a new password and is signed out everywhere`);
              onClose();
            },
          );
        }}
      >
        <p>Tell it to them in person; they can change it under their own name.</p>
        <PasswordField id="reset-password" label="New password" value={password} onChange={setPassword} />
        <Fault text={fault} />
        <Button type="submit" main disabled={busy}>
          Set the password
        </Button>
      </form>
    </Panel>
  );
}
