import { useState } from "react";
import { ApiError, api, type Schemas, unwrap } from "../../api/client";
import { Button } from "../../ui/form";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { draftOf, fieldLabels, fieldsOf, MachineFields } from "./MachineFields";

type Edited = Schemas["EditedMachine"];

/** Edits a machine's fields. When somebody else changed them meanwhile, shows
 *  both and keeps what was typed. */
export function EditMachine({ sheet, onClose }: { sheet: Schemas["Sheet"]; onClose: () => void }) {
  const form = useKeptForm(`edit-${sheet.id}`, { ...draftOf(sheet), version: sheet.version });
  const [theirs, setTheirs] = useState<Edited>();
  const typed = form.watch();
  const current = theirs && draftOf(theirs.fields);
  const differing = current ? fieldLabels.filter(([k]) => current[k] !== typed[k]) : [];
  async function send({ version, ...fields }: typeof typed) {
    try {
      return await unwrap(
        api.PUT("/api/machines/{id}", {
          params: { path: { id: sheet.id } },
          body: { version: theirs?.version ?? version, fields: fieldsOf(fields) },
        }),
      );
    } catch (error) {
      if (error instanceof ApiError && error.status === 409) setTheirs(error.current as Edited);
      throw error;
    }
  }
  return (
    <Panel
      open
      onOpenChange={() => {
        form.forget();
        onClose();
      }}
      title={`Edit ${sheet.name}`}
    >
      <SendForm
        form={form}
        send={send}
        onSent={() => {
          toast("Saved");
          onClose();
        }}
        button={theirs ? "Save as it stands here" : "Save"}
      >
        <MachineFields control={form.control} />
        {current && (
          <section className="border-2 border-look bg-look-wash px-4 py-3">
            <h3 className="font-bold">What differs now</h3>
            {differing.length === 0 && <p>Nothing: they typed the same.</p>}
            <ul>
              {differing.map(([k, label]) => (
                <li key={k} className="flex flex-wrap items-center gap-x-3 py-1">
                  <span>
                    {label}: theirs <b>{current[k] || "(empty)"}</b>, yours <b>{typed[k] || "(empty)"}</b>
                  </span>
                  <Button onClick={() => form.setValue(k, current[k])}>Take theirs</Button>
                </li>
              ))}
            </ul>
          </section>
        )}
      </SendForm>
    </Panel>
  );
}
