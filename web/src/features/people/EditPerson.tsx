import { api, type Schemas, unwrap } from "../../api/client";
import { CheckField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useEditForm } from "../../ui/forms/useEditForm";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { type PersonDraft, PersonFields, skillsOf } from "./fields";
import { Shifts } from "./Shifts";

/** Sets what a person is called, may do and can, or switches the account off. */
export function EditPerson({ person: p, onClose }: { person: Schemas["Person"]; onClose: () => void }) {
  const form = useEditForm<PersonDraft & { disabled: boolean }>(`person-${p.id}`, p.version, {
    display: p.display,
    role: p.role,
    skills: p.skills.join(", "),
    disabled: p.disabledAt !== null,
  });
  return (
    <Panel open onOpenChange={onClose} title={`${p.display}, signs in as ${p.name}`}>
      <SendForm
        form={form}
        send={(typed) =>
          unwrap(
            api.PUT("/api/people/{id}", {
              params: { path: { id: p.id } },
              body: { ...typed, skills: skillsOf(typed.skills), version: form.version },
            }),
          )
        }
        onSent={() => {
          toast("Saved");
          onClose();
        }}
        button="Save"
      >
        <PersonFields control={form.control} />
        <CheckField
          control={form.control}
          name="disabled"
          label="Switched off: cannot sign in; what they did stays on record"
        />
      </SendForm>
      {p.role !== "member" && !p.disabledAt && (
        <div className="mt-6 border-t-2 border-line pt-4">
          <h2 className="mb-2 text-xl font-bold">When they work</h2>
          <Shifts account={p.id} />
        </div>
      )}
    </Panel>
  );
}
