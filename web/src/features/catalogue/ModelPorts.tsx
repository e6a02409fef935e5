import { Button, Field, TextInput } from "../../ui/form";
import { OptionalNumber } from "../../ui/NumberInput";
import type { PortDraft } from "./modelDraft";

/** The connectors of a model, with their pins in order. */
export function ModelPorts({
  ports,
  onChange,
}: {
  ports: readonly PortDraft[];
  onChange: (ports: PortDraft[]) => void;
}) {
  const set = (i: number, change: Partial<PortDraft>) =>
    onChange(ports.map((p, k) => (k === i ? { ...p, ...change } : p)));
  return (
    <fieldset className="space-y-3 border-2 border-line px-4 py-3">
      <legend className="px-1 font-semibold">Ports</legend>
      {ports.map((p, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a port has no identity but its place
        <div key={i} className="grid grid-cols-[1fr_4.5rem_5.5rem_auto] items-end gap-2">
          <Field label="Port" htmlFor={`port-${i}`}>
            <TextInput id={`port-${i}`} required value={p.name} onChange={(name) => set(i, { name })} />
          </Field>
          <Field label="Pins" htmlFor={`port-ways-${i}`}>
            <OptionalNumber id={`port-ways-${i}`} value={p.ways} onChange={(ways) => set(i, { ways })} />
          </Field>
          <Field label="A per pin" htmlFor={`port-amps-${i}`}>
            <OptionalNumber
              id={`port-amps-${i}`}
              unit="A"
              value={p.amperes}
              onChange={(amperes) => set(i, { amperes })}
            />
          </Field>
          <Button danger onClick={() => onChange(ports.filter((_, k) => k !== i))}>
            Remove
          </Button>
          <div className="col-span-4">
            <Field label="What each pin is, in the header's order" htmlFor={`port-pins-${i}`}>
              <TextInput
                id={`port-pins-${i}`}
                className="font-mono"
                placeholder="1A 1B 2A 2B"
                value={p.pins}
                onChange={(pins) => set(i, { pins })}
              />
            </Field>
          </div>
        </div>
      ))}
      <Button onClick={() => onChange([...ports, { name: "", pins: "" }])}>Add a port</Button>
    </fieldset>
  );
}
