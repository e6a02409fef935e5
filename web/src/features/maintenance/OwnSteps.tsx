import type { Schemas } from "../../api/client";
import { Button, Field, TextArea, TextInput } from "../../ui/form";

type Step = Schemas["TaskStep"];

/** The steps of the house's own that a work order for the task has besides the task itself. */
export function OwnSteps({ list, onChange }: { list: readonly Step[]; onChange: (list: Step[]) => void }) {
  const set = (at: number, to: Partial<Step>) => onChange(list.map((s, i) => (i === at ? { ...s, ...to } : s)));
  return (
    <fieldset className="space-y-3">
      <legend className="font-bold">Further steps of a work order</legend>
      {list.map((s, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a step has no other name than its place
        <div key={i} className="grid gap-2 border-l-4 border-line pl-3">
          <Field label={`Step ${i + 1}`} htmlFor={`own-step-${i}`}>
            <TextInput id={`own-step-${i}`} value={s.title} onChange={(title) => set(i, { title })} maxLength={120} />
          </Field>
          <Field label="How" htmlFor={`own-how-${i}`}>
            <TextArea id={`own-how-${i}`} rows={2} value={s.do} onChange={(text) => set(i, { do: text })} />
          </Field>
          <div>
            <Button onClick={() => onChange(list.filter((_, at) => at !== i))}>Remove</Button>
          </div>
        </div>
      ))}
      <Button onClick={() => onChange([...list, { title: "", do: "" }])}>Add a step</Button>
    </fieldset>
  );
}
