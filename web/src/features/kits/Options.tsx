import type { Schemas } from "../../api/client";
import { Button } from "../../ui/form";
import { blankFurther, FurtherEditor } from "../../ui/needs/FurtherEditor";

/** Additional changes that a kit offers. */
export function Options({ kit, set }: { kit: Schemas["Kit"]; set: (change: Partial<Schemas["Kit"]>) => void }) {
  return (
    <section aria-labelledby="options">
      <h2 id="options" className="text-2xl font-bold">
        Additional changes that it offers
      </h2>
      <p className="mb-2 text-dim">Judged on the machine with them made: the kit then fits if they are.</p>
      {(kit.options ?? []).map((f, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a change has no identity but its place
        <div key={i} className="mb-3 border-l-4 border-line bg-leaf px-3 py-2">
          <FurtherEditor
            further={f}
            onChange={(x) => set({ options: (kit.options ?? []).map((o, k) => (k === i ? x : o)) })}
          />
          <Button
            danger
            className="mt-2"
            onClick={() => set({ options: (kit.options ?? []).filter((_, k) => k !== i) })}
          >
            Remove this change
          </Button>
        </div>
      ))}
      <Button onClick={() => set({ options: [...(kit.options ?? []), blankFurther] })}>
        Offer an additional change
      </Button>
    </section>
  );
}
