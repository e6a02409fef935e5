import { api, type Schemas, unwrap } from "../../api/client";
import { isProposed } from "../../ui/catalogueKeys";
import { SelectField, TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { useGo } from "../../ui/go";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { PartFieldsForm, partDraftOf, partFieldsOf } from "./PartFieldsForm";

/** Puts a part on the shelf that came without an order. */
export function AddPart({ catalogue, onClose }: { catalogue: Schemas["Catalogue"]; onClose: () => void }) {
  const go = useGo();
  const form = useKeptForm("new-part", { kind: "", model: "", ...partDraftOf({}) });
  const kind = form.watch("kind");
  return (
    <Panel open onOpenChange={onClose} title="Add a part to the shelf">
      <SendForm
        form={form}
        send={({ kind, model, ...fields }) =>
          unwrap(api.POST("/api/parts", { body: { kind, model, ...partFieldsOf(fields) } }))
        }
        onSent={(made, { model }) => {
          toast(`${model} is on the shelf`);
          go(`/part/${made.id}`);
        }}
        button="Add it to the shelf"
      >
        <SelectField
          control={form.control}
          name="kind"
          label="Kind of part"
          required
          empty="Choose"
          options={catalogue.kinds.filter((k) => !k.superseded).map((k) => [k.key, k.label] as const)}
        />
        <TextField
          control={form.control}
          name="model"
          label="Model"
          hint="As its supplier calls it: a claim, until somebody looks"
          required
          list="new-part-models"
        />
        <datalist id="new-part-models">
          {catalogue.models
            .filter((m) => m.kind === kind && isProposed(m))
            .map((m) => (
              <option key={m.name} value={m.name} />
            ))}
        </datalist>
        <PartFieldsForm control={form.control} />
      </SendForm>
    </Panel>
  );
}
