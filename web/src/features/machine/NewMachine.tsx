import { api, unwrap } from "../../api/client";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { useGo } from "../../ui/go";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { useMayWork } from "../../ui/session";
import { Empty } from "../../ui/states";
import { toast } from "../../ui/toast";
import { LikeField, likeOf } from "./LikeField";
import { draftOf, fieldsOf, MachineFields } from "./MachineFields";

/** Puts one machine into the register. */
export default function NewMachine() {
  const go = useGo();
  const mayWork = useMayWork();
  const form = useKeptForm("new-machine", { ...draftOf({}), like: "" });
  if (!mayWork) return <Empty title="Only technicians put machines into the register." />;
  return (
    <Page
      title="New machine"
      lead="A name that tells it apart; the rest is read off the machine afterwards."
      actions={<LinkButton to="/machine/several">Several alike at once</LinkButton>}
    >
      <SendForm
        form={form}
        className="max-w-xl space-y-4"
        send={({ like, ...fields }) =>
          unwrap(api.POST("/api/machines", { body: { ...fieldsOf(fields), like: likeOf(like) } }))
        }
        onSent={(made, { name }) => {
          toast(`${name} is in the register`);
          go(`/machine/${made.id}`);
        }}
        button="Add the machine"
      >
        <MachineFields control={form.control} />
        <LikeField control={form.control} name="like" />
      </SendForm>
    </Page>
  );
}
