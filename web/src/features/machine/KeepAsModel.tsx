import { api, type Schemas, unwrap } from "../../api/client";
import { TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { toast } from "../../ui/toast";

/** Keeps a machine's positions in the catalogue, for new machines that are built alike. */
export function KeepAsModel({ structure }: { structure: Schemas["StructureSheet"] }) {
  const form = useKeptForm("structure-model", { name: "" });
  const positions = structure.positions.map(({ key, kind, label, group, serves, n, fedBy, ridesOn }) => {
    return { key, kind, label, group, serves, n, fedBy, ridesOn };
  });
  return (
    <SendForm
      form={form}
      className="no-print mt-6 flex flex-wrap items-end gap-3 border-2 border-line bg-leaf px-4 py-3"
      send={({ name }) =>
        unwrap(
          api.POST("/api/catalogue/entries", { body: { version: 0, model: { kind: "structure", name, positions } } }),
        )
      }
      onSent={(_, { name }) => toast(`New machines can be built like ${name}`)}
      button="Save the list"
      tone="plain"
      disabled={!form.watch("name").trim()}
    >
      <div className="w-80">
        <TextField
          control={form.control}
          name="name"
          label="Save this list for new machines, as"
          hint="It becomes a model in the catalogue"
          required
        />
      </div>
    </SendForm>
  );
}
