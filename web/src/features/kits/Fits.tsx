import type { Schemas } from "../../api/client";
import { Field, Select } from "../../ui/form";
import { EffectsEditor } from "../../ui/needs/EffectsEditor";
import { StepList } from "../../ui/needs/StepsEditor";
import { UsesEditor } from "../../ui/needs/UsesEditor";

const headTargets: [string, string][] = [
  ["", "Only the head that it names"],
  ["any", "Any one head"],
  ["each", "Each head of the machine"],
];

/** What a kit takes, what it fits, and how. */
export function Fits({ kit, set }: { kit: Schemas["Kit"]; set: (change: Partial<Schemas["Kit"]>) => void }) {
  return (
    <>
      <section aria-labelledby="uses">
        <h2 id="uses" className="text-2xl font-bold">
          What it takes
        </h2>
        <p className="mb-2 text-dim">
          Of what the machine has; a number below 0 frees. Area and mass count by themselves. So do the power and the
          driver outputs of the parts it fits, where nothing is written of them here.
        </p>
        <UsesEditor name="Takes" add="Add what it takes" uses={kit.uses ?? []} onChange={(uses) => set({ uses })} />
      </section>
      <section aria-labelledby="fits">
        <h2 id="fits" className="mb-2 text-2xl font-bold">
          What it fits, moves and sets
        </h2>
        <EffectsEditor
          name="Fits"
          add="Add what it fits"
          effects={kit.effects}
          onChange={(effects) => set({ effects })}
        />
        <div className="mt-4" />
        <Field
          label="For which head"
          htmlFor="kit-heads"
          hint="Write it for head 1; for another head the same places there are meant"
        >
          <Select
            id="kit-heads"
            className="max-w-96"
            value={kit.heads ?? ""}
            onChange={(heads) => set({ heads: heads as Schemas["Kit"]["heads"] })}
            options={headTargets}
          />
        </Field>
      </section>
      <section aria-labelledby="steps">
        <h2 id="steps" className="mb-2 text-2xl font-bold">
          How it is fitted
        </h2>
        <StepList name="Step" add="Add a step" steps={kit.steps} onChange={(steps) => set({ steps })} />
      </section>
    </>
  );
}
