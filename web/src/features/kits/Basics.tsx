import type { Schemas } from "../../api/client";
import { Field, TextArea, TextInput } from "../../ui/form";
import { NumberInput } from "../../ui/NumberInput";

/** What a kit is called, costs and takes. */
export function Basics({ kit, set }: { kit: Schemas["Kit"]; set: (change: Partial<Schemas["Kit"]>) => void }) {
  return (
    <>
      <div className="grid gap-4 sm:grid-cols-2">
        <Field label="Name" htmlFor="kit-name">
          <TextInput id="kit-name" required value={kit.name} onChange={(name) => set({ name })} />
        </Field>
        <Field label="Kind of upgrade" htmlFor="kit-what">
          <TextInput id="kit-what" required value={kit.what} onChange={(what) => set({ what })} />
        </Field>
      </div>
      <div className="grid gap-4 sm:grid-cols-[7rem_7rem_1fr]">
        <Field label="Price" htmlFor="kit-price">
          <NumberInput id="kit-price" value={kit.price} onChange={(price) => set({ price })} />
        </Field>
        <Field label="Minutes" htmlFor="kit-minutes">
          <NumberInput id="kit-minutes" value={kit.minutes} onChange={(minutes) => set({ minutes })} />
        </Field>
        <Field label="Skill" htmlFor="kit-skill">
          <TextInput id="kit-skill" value={kit.skill} onChange={(skill) => set({ skill })} />
        </Field>
      </div>
      <Field label="About" htmlFor="kit-about">
        <TextArea id="kit-about" rows={2} value={kit.about} onChange={(about) => set({ about })} />
      </Field>
    </>
  );
}
