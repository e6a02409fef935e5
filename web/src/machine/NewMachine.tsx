import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { api, unwrap } from "../api/client";
import { useMayWork } from "../app/session";
import { useDraft } from "../ui/draft";
import { Button, Fault, Field, Select } from "../ui/form";
import { Page } from "../ui/Page";
import { Empty } from "../ui/states";
import { toast } from "../ui/toast";
import { useWrite } from "../ui/write";
import { draftOf, fieldsOf, MachineFields } from "./MachineFields";

/** After what the machine is built, as the API takes it. */
function likeOf(choice: string): { machine?: number; model?: string } | undefined {
  if (choice.startsWith("machine ")) return { machine: Number(choice.slice("machine ".length)) };
  if (choice.startsWith("model ")) return { model: choice.slice("model ".length) };
}

export default function NewMachine() {
  const go = useNavigate();
  const mayWork = useMayWork();
  const [fields, setFields, clear] = useDraft("new-machine", draftOf({}));
  const [like, setLike, clearLike] = useDraft("new-machine-like", { of: "" });
  const { write, busy, fault } = useWrite();
  const fleet = useQuery({ queryKey: ["fleet"], queryFn: () => unwrap(api.GET("/api/machines")) });
  const catalogue = useQuery({ queryKey: ["catalogue"], queryFn: () => unwrap(api.GET("/api/catalogue")) });
  const models = (catalogue.data?.catalogue.models ?? []).filter(
    (m) => (m.positions ?? []).length > 0 && !m.superseded,
  );
  if (!mayWork) return <Empty title="Only technicians put machines into the register." />;
  return (
    <Page title="New machine" lead="A name that tells it apart; the rest is read off the machine afterwards.">
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
        <Field
          label="Built like"
          htmlFor="machine-like"
          hint="It gets the same positions; they are edited on its own sheet afterwards"
        >
          <Select
            id="machine-like"
            value={like.of}
            onChange={(of) => setLike({ of })}
            empty="the usual machine: one head, one bed"
            options={[
              ...models.map((m) => [`model ${m.name}`, `${m.name} (model)`] as const),
              ...(fleet.data?.machines ?? []).map((m) => [`machine ${m.id}`, `${m.name}, ${m.maker}`] as const),
            ]}
          />
        </Field>
        <Fault text={fault} />
        <Button type="submit" main disabled={busy}>
          Add the machine
        </Button>
      </form>
    </Page>
  );
}
