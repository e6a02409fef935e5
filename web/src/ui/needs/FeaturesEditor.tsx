import type { Schemas } from "../../api/client";
import { Button, TextInput } from "../form";
import { NumberInput } from "../NumberInput";
import { NeedsEditor } from "./NeedsEditor";

type Feature = Schemas["Feature"];

/** What builds of a kind can have: each feature with its flash, and what it needs of the machine. */
export function FeaturesEditor({
  features,
  kind,
  onChange,
}: {
  features: readonly Feature[];
  kind: string;
  onChange: (features: Feature[]) => void;
}) {
  const put = (i: number, f: Feature) => onChange(features.map((x, k) => (k === i ? f : x)));
  return (
    <fieldset className="space-y-2 border-2 border-line px-4 py-3">
      <legend className="px-1 font-semibold">What a build of it can have</legend>
      {features.map((f, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a feature has no identity but its place
        <div key={i} className="border-b border-rule pb-2">
          <div className="grid grid-cols-[1fr_8rem_auto] items-end gap-2">
            <TextInput
              aria-label={`Feature ${i + 1}: name`}
              value={f.name}
              onChange={(name) => put(i, { ...f, name })}
            />
            <NumberInput
              aria-label={`Feature ${i + 1}: flash, KiB`}
              value={f.kib ?? 0}
              onChange={(kib) => put(i, { ...f, kib })}
            />
            <Button danger onClick={() => onChange(features.filter((_, k) => k !== i))}>
              Remove
            </Button>
          </div>
          <details className="mt-1">
            <summary className="min-h-10 cursor-pointer py-2">
              {f.needs?.length
                ? `Needs: ${f.needs.map((n) => n.that.label).join("; ")}`
                : "Needs nothing of the machine"}
            </summary>
            <NeedsEditor
              kind={kind}
              needs={f.needs ?? []}
              inherited={[]}
              onChange={(needs) => put(i, { ...f, needs })}
            />
          </details>
        </div>
      ))}
      <Button onClick={() => onChange([...features, { name: "", kib: 0 }])}>Add a feature</Button>
      <p className="text-sm text-dim">Name, and KiB of flash that it takes.</p>
    </fieldset>
  );
}
