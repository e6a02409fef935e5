import { useNavigate } from "react-router";
import { api, unwrap } from "../../api/client";
import { useDraft } from "../../ui/draft";
import { Button, Fault } from "../../ui/form";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { useMayWork } from "../../ui/session";
import { Empty } from "../../ui/states";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { LikeField, likeOf } from "./LikeField";
import { draftOf, fieldsOf, MachineFields } from "./MachineFields";

export default function NewMachine() {
  const go = useNavigate();
  const mayWork = useMayWork();
  const [fields, setFields, clear] = useDraft("new-machine", draftOf({}));
  const [like, setLike, clearLike] = useDraft("new-machine-like", { of: "" });
  const { write, busy, fault } = useWrite();
  if (!mayWork) return <Empty title="Only technicians put machines into the register." />;
  return (
    <Page
      title="New machine"
      lead="A name that tells it apart; the rest is read off the machine afterwards."
      actions={<LinkButton to="/machine/several">Several alike at once</LinkButton>}
    >
      <form
        className="max-w-xl space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          write(
            () => unwrap(api.POST("/api/machines", { body: { ...fieldsOf(fields), like: likeOf(like.of) } })),
            (made) => {
              clear();
              clearLike();
              toast(`${fields.name} is in the register`);
              go(`/machine/${made.id}`);
            },
          );
        }}
      >
        <MachineFields fields={fields} onChange={setFields} />
        <LikeField value={like.of} onChange={(of) => setLike({ of })} />
        <Fault text={fault} />
        <Button type="submit" main disabled={busy}>
          Add the machine
        </Button>
      </form>
    </Page>
  );
}
