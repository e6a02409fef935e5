import { useNavigate } from "react-router";
import { api, unwrap } from "../../api/client";
import { DayInput } from "../../ui/DayInput";
import { useDraft } from "../../ui/draft";
import { Button, Fault, Field, TextArea, TextInput } from "../../ui/form";
import { Page } from "../../ui/Page";
import { useMayWork } from "../../ui/session";
import { Empty } from "../../ui/states";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { LikeField, likeOf } from "./LikeField";
import { draftOf, fieldsOf } from "./MachineFields";

const shared = [
  ["bay", "Bay"],
  ["maker", "Maker and model of the machines"],
  ["supplier", "Supplier"],
] as const;

/** Several machines that were bought alike: their names, and once what they have in common. */
export default function SeveralMachines() {
  const go = useNavigate();
  const mayWork = useMayWork();
  const [draft, setDraft, clear] = useDraft("several-machines", {
    names: "",
    like: "",
    bay: "",
    maker: "",
    supplier: "",
    boughtOn: "",
  });
  const { write, busy, fault } = useWrite();
  const names = draft.names
    .split("\n")
    .map((n) => n.trim())
    .filter(Boolean);
  if (!mayWork) return <Empty title="Only technicians put machines into the register." />;
  return (
    <Page title="Several alike machines" lead="What they differ in is read off each machine afterwards.">
      <form
        className="max-w-xl space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          const fields = fieldsOf(draftOf({ ...draft, name: names[0] }));
          write(
            () => unwrap(api.POST("/api/fleet/machines", { body: { names, fields, like: likeOf(draft.like) } })),
            () => {
              clear();
              toast(`${names.length} ${names.length === 1 ? "machine is" : "machines are"} in the register`);
              go("/fleet");
            },
          );
        }}
      >
        <Field label="Names" htmlFor="several-names" hint="Each on a line of its own">
          <TextArea
            id="several-names"
            required
            rows={6}
            value={draft.names}
            onChange={(v) => setDraft({ ...draft, names: v })}
          />
        </Field>
        {shared.map(([key, label]) => (
          <Field key={key} label={label} htmlFor={`several-${key}`}>
            <TextInput id={`several-${key}`} value={draft[key]} onChange={(v) => setDraft({ ...draft, [key]: v })} />
          </Field>
        ))}
        <Field label="Bought on" htmlFor="several-bought">
          <DayInput
            id="several-bought"
            value={draft.boughtOn}
            onChange={(boughtOn) => setDraft({ ...draft, boughtOn })}
          />
        </Field>
        <LikeField value={draft.like} onChange={(like) => setDraft({ ...draft, like })} />
        <Fault text={fault} />
        <Button type="submit" main disabled={busy || names.length === 0}>
          {names.length > 1 ? `Add ${names.length} machines` : "Add the machine"}
        </Button>
      </form>
    </Page>
  );
}
