import type { Schemas } from "../../api/client";
import { Field, TextInput } from "../../ui/form";
import { NumberInput } from "../../ui/NumberInput";
import { LinesField } from "../../ui/needs/LinesField";

/** What a kit brings with it: the build, files, mass and area. */
export function Brings({ kit, set }: { kit: Schemas["Kit"]; set: (change: Partial<Schemas["Kit"]>) => void }) {
  const area = kit.areaLoss ?? [0, 0, 0];
  return (
    <section aria-labelledby="brings">
      <h2 id="brings" className="mb-2 text-2xl font-bold">
        What it brings with it
      </h2>
      <div className="space-y-4">
        <Field label="What a new build must have" htmlFor="kit-build" hint="Empty when none is needed">
          <TextInput id="kit-build" value={kit.newBuild ?? ""} onChange={(newBuild) => set({ newBuild })} />
        </Field>
        <LinesField
          label="Sold for"
          hint="The machines that its seller lists, as they are sold; a claim that decides nothing"
          value={kit.soldFor}
          onChange={(soldFor) => set({ soldFor })}
        />
        <Field label="What may go wrong" htmlFor="kit-risk">
          <TextInput id="kit-risk" value={kit.risk ?? ""} onChange={(risk) => set({ risk })} />
        </Field>
        <div className="grid gap-4 sm:grid-cols-2">
          <LinesField
            label="Start code"
            hint="Such as: G29 on the line after G28"
            value={kit.startCode}
            onChange={(startCode) => set({ startCode })}
          />
          <LinesField label="Slicer" value={kit.slicer} onChange={(slicer) => set({ slicer })} />
        </div>
        <div className="grid gap-4 sm:grid-cols-5">
          <Field label="Toolhead, g" htmlFor="kit-head-grams">
            <NumberInput
              id="kit-head-grams"
              value={kit.toolheadGrams ?? 0}
              onChange={(toolheadGrams) => set({ toolheadGrams })}
            />
          </Field>
          <Field label="Bed, g" htmlFor="kit-bed-grams">
            <NumberInput id="kit-bed-grams" value={kit.bedGrams ?? 0} onChange={(bedGrams) => set({ bedGrams })} />
          </Field>
          {["X", "Y", "Z"].map((axis, i) => (
            <Field key={axis} label={`${axis} lost, mm`} htmlFor={`kit-loss-${axis}`}>
              <NumberInput
                id={`kit-loss-${axis}`}
                value={area[i] ?? 0}
                onChange={(mm) => set({ areaLoss: area.map((x, k) => (k === i ? mm : x)) })}
              />
            </Field>
          ))}
        </div>
        <p className="text-sm text-dim">Mass added, print area lost; below 0 when it grows less or gains.</p>
      </div>
    </section>
  );
}
