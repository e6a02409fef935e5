import { useState } from "react";
import { ApiError, api, type Schemas, unwrap } from "../../api/client";
import { useDraft } from "../../ui/draft";
import { Button, Fault, type FaultText } from "../../ui/form";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { faultOf, useRefresh } from "../../ui/write";
import { draftOf, fieldLabels, fieldsOf, MachineFields } from "./MachineFields";

type Edited = Schemas["EditedMachine"];

/** Edits a machine's fields. When somebody else changed them meanwhile, shows
 *  both and keeps what was typed. */
export function EditMachine({ sheet, onClose }: { sheet: Schemas["Sheet"]; onClose: () => void }) {
  const refresh = useRefresh();
  const [draft, setDraft, clear] = useDraft(`edit-${sheet.id}`, {
    version: sheet.version,
    fields: draftOf(sheet),
  });
  const [theirs, setTheirs] = useState<Edited>();
  const [fault, setFault] = useState<FaultText>("");
  const [busy, setBusy] = useState(false);
  async function save(version: number) {
    setBusy(true);
    setFault("");
    try {
      await unwrap(
        api.PUT("/api/machines/{id}", {
          params: { path: { id: sheet.id } },
          body: { version, fields: fieldsOf(draft.fields) },
        }),
      );
      clear();
      await refresh();
      toast("Saved");
      onClose();
    } catch (error) {
      setFault(faultOf(error));
      if (error instanceof ApiError && error.status === 409) setTheirs(error.current as Edited);
    } finally {
      setBusy(false);
    }
  }
  const current = theirs && draftOf(theirs.fields);
  const differing = current ? fieldLabels.filter(([k]) => current[k] !== draft.fields[k]) : [];
  return (
    <Panel
      open
      onOpenChange={() => {
        clear();
        onClose();
      }}
      title={`Edit ${sheet.name}`}
    >
      <form
        className="space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          save(theirs?.version ?? draft.version);
        }}
      >
        <MachineFields fields={draft.fields} onChange={(fields) => setDraft({ ...draft, fields })} />
        <Fault text={fault} />
        {current && (
          <section className="border-2 border-look bg-look-wash px-4 py-3">
            <h3 className="font-bold">What differs now</h3>
            {differing.length === 0 && <p>Nothing: they typed the same.</p>}
            <ul>
              {differing.map(([k, label]) => (
                <li key={k} className="flex flex-wrap items-center gap-x-3 py-1">
                  <span>
                    {label}: theirs <b>{current[k] || "(empty)"}</b>, yours <b>{draft.fields[k] || "(empty)"}</b>
                  </span>
                  <Button onClick={() => setDraft({ ...draft, fields: { ...draft.fields, [k]: current[k] } })}>
                    Take theirs
                  </Button>
                </li>
              ))}
            </ul>
          </section>
        )}
        <Button type="submit" main disabled={busy}>
          {theirs ? "Save as it stands here" : "Save"}
        </Button>
      </form>
    </Panel>
  );
}
