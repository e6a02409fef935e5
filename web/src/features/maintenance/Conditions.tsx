import { useQuery } from "@tanstack/react-query";
import { useId } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { Button, Check, Field, TextInput } from "../../ui/form";
import { OptionalNumber } from "../../ui/NumberInput";

type Condition = Schemas["Condition"];

/** Where other limits hold: abrasive filament, above 240 °C, in an enclosure. */
export function Conditions({ list, onChange }: { list: readonly Condition[]; onChange: (list: Condition[]) => void }) {
  const traits = useId();
  const catalogue = useQuery({ queryKey: keys.catalogue(), queryFn: () => unwrap(api.GET("/api/catalogue")) });
  return (
    <fieldset className="space-y-3">
      <legend className="font-bold">Otherwise where</legend>
      {list.map((c, i) => (
        <Row
          // biome-ignore lint/suspicious/noArrayIndexKey: a condition has no other name than its place
          key={i}
          condition={c}
          traits={traits}
          onChange={(to) => onChange(list.map((was, at) => (at === i ? to : was)))}
          onRemove={() => onChange(list.filter((_, at) => at !== i))}
        />
      ))}
      <Button onClick={() => onChange([...list, { trait: "", words: "" }])}>Add a condition</Button>
      <datalist id={traits}>
        {catalogue.data?.catalogue.kinds.flatMap((k) =>
          k.traits.map((t) => (
            <option key={`${k.key}.${t.name}`} value={`${k.key}.${t.name}`}>
              {k.label}: {t.label}
            </option>
          )),
        )}
      </datalist>
    </fieldset>
  );
}

function Row({
  condition: c,
  traits,
  onChange,
  onRemove,
}: {
  condition: Condition;
  traits: string;
  onChange: (c: Condition) => void;
  onRemove: () => void;
}) {
  const id = useId();
  const set = (to: Partial<Condition>) => onChange({ ...c, ...to });
  const number = (name: "over" | "hours" | "days" | "times", label: string) => (
    <Field label={label} htmlFor={`${id}-${name}`}>
      <OptionalNumber id={`${id}-${name}`} value={c[name]} onChange={(n) => set({ [name]: n })} />
    </Field>
  );
  return (
    <div className="grid grid-cols-2 gap-2 border-l-4 border-line pl-3 sm:grid-cols-4">
      <div className="col-span-2">
        <Field label="Where this" htmlFor={`${id}-trait`} hint="Kind and trait: nozzle.abrasive">
          <TextInput id={`${id}-trait`} list={traits} value={c.trait} onChange={(trait) => set({ trait })} />
        </Field>
      </div>
      <Field label="is" htmlFor={`${id}-is`}>
        <TextInput id={`${id}-is`} value={c.is ?? ""} onChange={(is) => set({ is: is || undefined })} />
      </Field>
      {number("over", "or is above")}
      <div className="col-span-2">
        <Field label="Shown as" htmlFor={`${id}-words`}>
          <TextInput id={`${id}-words`} value={c.words} onChange={(words) => set({ words })} />
        </Field>
      </div>
      {number("hours", "after, h")}
      {number("days", "or days")}
      {number("times", "or so many times")}
      <div className="col-span-2 flex items-end">
        <Check label="not needed there" checked={c.never ?? false} onChange={(never) => set({ never })} />
      </div>
      <div className="flex items-end justify-end">
        <Button onClick={onRemove}>Remove</Button>
      </div>
    </div>
  );
}
