import type { Schemas } from "../../api/client";
import { Button, Select, TextArea, TextInput } from "../form";

type Step = Schemas["FittingStep"];

/** Fitting and wiring, step by step, each with its cautions. */
export function StepList({
  steps,
  onChange,
  name,
  add,
}: {
  steps: readonly Step[];
  onChange: (steps: Step[]) => void;
  /** What a step is called to those who cannot see it. */
  name: string;
  /** What the button that adds one says. */
  add: string;
}) {
  const set = (i: number, change: Partial<Step>) => onChange(steps.map((s, k) => (k === i ? { ...s, ...change } : s)));
  return (
    <>
      <ol className="space-y-3">
        {steps.map((s, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a step has no identity but its place
          <li key={i} className="grid gap-2 border-l-4 border-line bg-leaf px-3 py-3 sm:grid-cols-[1fr_9rem]">
            <TextInput
              aria-label={`${name} ${i + 1}: title`}
              placeholder={`${i + 1}. title`}
              value={s.title}
              onChange={(title) => set(i, { title })}
            />
            <Select
              aria-label={`${name} ${i + 1}: phase`}
              value={s.phase || "fit"}
              onChange={(phase) => set(i, { phase })}
              options={["fit", "wire"]}
            />
            <TextArea
              aria-label={`${name} ${i + 1}: what to do`}
              placeholder="what to do"
              value={s.do}
              onChange={(text) => set(i, { do: text })}
            />
            <Button danger className="self-start" onClick={() => onChange(steps.filter((_, k) => k !== i))}>
              Remove
            </Button>
            <TextArea
              aria-label={`${name} ${i + 1}: cautions, one a line`}
              placeholder="cautions, one a line: what can hurt, and what to do against it"
              value={(s.cautions ?? []).join("\n")}
              onChange={(text) => set(i, { cautions: text ? text.split("\n") : [] })}
            />
          </li>
        ))}
      </ol>
      <Button className="mt-3" onClick={() => onChange([...steps, { title: "", do: "", phase: "fit" }])}>
        {add}
      </Button>
    </>
  );
}
