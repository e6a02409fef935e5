import { useNavigate } from "react-router";
import { api, take } from "../api/client";
import { useMayWork } from "../app/session";
import { useDraft } from "../parts/draft";
import { Button, Fault } from "../parts/form";
import { Page } from "../parts/Page";
import { Empty } from "../parts/states";
import { say } from "../parts/toast";
import { useWrite } from "../parts/write";
import { draftOf, fieldsOf, MachineFields } from "./MachineFields";

export default function NewMachine() {
  const go = useNavigate();
  const mayWork = useMayWork();
  const [fields, setFields, clear] = useDraft("new-machine", draftOf({}));
  const { write, busy, fault } = useWrite();
  if (!mayWork) return <Empty title="Only technicians put machines into the register." />;
  return (
    <Page title="New machine" lead="A name that tells it apart; the rest is read off the machine afterwards.">
      <form
        className="max-w-xl space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          write(
            () => take(api.POST("/api/machines", { body: fieldsOf(fields) })),
            (made) => {
              clear();
              say(`${fields.name} is in the register`);
              go(`/machine/${made.id}`);
            },
          );
        }}
      >
        <MachineFields fields={fields} onChange={setFields} />
        <Fault text={fault} />
        <Button type="submit" main disabled={busy}>
          Put it into the register
        </Button>
      </form>
    </Page>
  );
}
