import { useId } from "react";
import type { Schemas } from "../../api/client";
import { keyOf } from "../catalogueKeys";
import { Field, TextInput } from "../form";
import { NumberInput } from "../NumberInput";
import { EffectsEditor } from "./EffectsEditor";
import { StepList } from "./StepsEditor";
import { UsesEditor } from "./UsesEditor";

type Further = Schemas["AdditionalChange"];

export const blankFurther: Further = { key: "", title: "", price: 0, minutes: 15, effects: [], steps: [] };

/** A change that has to be made as well: with it the need is met, and the kit "fits if". */
export function FurtherEditor({ further: f, onChange }: { further: Further; onChange: (f: Further) => void }) {
  const id = useId();
  return (
    <div className="mt-2 space-y-3">
      <p className="text-dim">Met with this additional change; the kit then fits if it is made.</p>
      <div className="grid gap-3 sm:grid-cols-[1fr_7rem_7rem]">
        <Field label="The additional change" htmlFor={`${id}-title`}>
          <TextInput
            id={`${id}-title`}
            placeholder="adapter board on the display header"
            value={f.title}
            onChange={(title) =>
              onChange({ ...f, title, key: f.key && keyOf(f.title) !== f.key ? f.key : keyOf(title) })
            }
          />
        </Field>
        <Field label="Its price" htmlFor={`${id}-price`}>
          <NumberInput id={`${id}-price`} value={f.price} onChange={(price) => onChange({ ...f, price })} />
        </Field>
        <Field label="Its minutes" htmlFor={`${id}-minutes`}>
          <NumberInput id={`${id}-minutes`} value={f.minutes} onChange={(minutes) => onChange({ ...f, minutes })} />
        </Field>
      </div>
      <EffectsEditor
        name="The change fits"
        add="Add what the change fits"
        effects={f.effects ?? []}
        onChange={(effects) => onChange({ ...f, effects })}
      />
      <UsesEditor
        name="The change takes"
        add="Add what the change takes"
        uses={f.uses ?? []}
        onChange={(uses) => onChange({ ...f, uses })}
      />
      <StepList
        name="Change step"
        add="Add a step of the change"
        steps={f.steps}
        onChange={(steps) => onChange({ ...f, steps })}
      />
    </div>
  );
}
