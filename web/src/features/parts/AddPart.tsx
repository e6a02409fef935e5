import { useNavigate } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { isProposed } from "../../ui/catalogueKeys";
import { useDraft } from "../../ui/draft";
import { Button, Fault, Field, Select, TextInput } from "../../ui/form";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { PartFieldsForm, partDraftOf, partFieldsOf } from "./PartFieldsForm";

export function AddPart({ catalogue, onClose }: { catalogue: Schemas["Catalogue"]; onClose: () => void }) {
  const go = useNavigate();
  const [draft, setDraft, clear] = useDraft("new-part", { kind: "", model: "", fields: partDraftOf({}) });
  const { write, busy, fault } = useWrite();
  return (
    <Panel open onOpenChange={onClose} title="Add a part to the shelf">
      <form
        className="space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          write(
            () =>
              unwrap(
                api.POST("/api/parts", {
                  body: { kind: draft.kind, model: draft.model, ...partFieldsOf(draft.fields) },
                }),
              ),
            (made) => {
              clear();
              toast(`${draft.model} is on the shelf`);
              go(`/part/${made.id}`);
            },
          );
        }}
      >
        <Field label="Kind of part" htmlFor="new-part-kind">
          <Select
            id="new-part-kind"
            required
            value={draft.kind}
            onChange={(kind) => setDraft({ ...draft, kind })}
            empty="Choose"
            options={catalogue.kinds.filter((k) => !k.superseded).map((k) => [k.key, k.label] as const)}
          />
        </Field>
        <Field label="Model" htmlFor="new-part-model" hint="As its supplier calls it: a claim, until somebody looks">
          <TextInput
            id="new-part-model"
            required
            list="new-part-models"
            value={draft.model}
            onChange={(model) => setDraft({ ...draft, model })}
          />
          <datalist id="new-part-models">
            {catalogue.models
              .filter((m) => m.kind === draft.kind && isProposed(m))
              .map((m) => (
                <option key={m.name} value={m.name} />
              ))}
          </datalist>
        </Field>
        <PartFieldsForm draft={draft.fields} onChange={(fields) => setDraft({ ...draft, fields })} />
        <Fault text={fault} />
        <Button type="submit" main disabled={busy}>
          Add it to the shelf
        </Button>
      </form>
    </Panel>
  );
}
