import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { Button, Fault, Field, TextInput } from "../../ui/form";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

/** Keeps a machine's positions in the catalogue, for new machines that are built alike. */
export function KeepAsModel({ structure }: { structure: Schemas["StructureSheet"] }) {
  const [name, setName] = useState("");
  const { write, busy, fault } = useWrite();
  const positions = structure.positions.map(({ key, kind, label, group, serves, n, fedBy, ridesOn }) => {
    return { key, kind, label, group, serves, n, fedBy, ridesOn };
  });
  return (
    <form
      className="no-print mt-6 flex flex-wrap items-end gap-3 border-2 border-line bg-leaf px-4 py-3"
      onSubmit={(e) => {
        e.preventDefault();
        write(
          () =>
            unwrap(
              api.POST("/api/catalogue/entries", {
                body: { version: 0, model: { kind: "structure", name, positions } },
              }),
            ),
          () => {
            toast(`New machines can be built like ${name}`);
            setName("");
          },
        );
      }}
    >
      <div className="w-80">
        <Field
          label="Keep this list for new machines, as"
          htmlFor="structure-model"
          hint="It becomes a model in the catalogue"
        >
          <TextInput id="structure-model" required value={name} onChange={setName} />
        </Field>
      </div>
      <Button type="submit" disabled={busy || !name.trim()}>
        Keep it
      </Button>
      <div className="w-full empty:hidden">
        <Fault text={fault} />
      </div>
    </form>
  );
}
