import type { Schemas } from "../../api/client";
import { Button, Check, Field, TextInput } from "../../ui/form";
import { Headers } from "./Headers";

type Motor = Schemas["Motor"];

/** The motors of a sheet: plug against header, pin by pin, with the order that makes each turn. */
export function MotorFields({
  motors,
  judged,
  headerPins,
  onChange,
}: {
  motors: readonly Motor[];
  judged?: readonly Schemas["JudgedMotor"][];
  /** The order of a four-pin header of this board, where one is known. */
  headerPins?: string;
  onChange: (motors: Motor[]) => void;
}) {
  const set = (i: number, m: Motor) => onChange(motors.map((x, k) => (k === i ? m : x)));
  return (
    <>
      <h2 className="mt-6 text-2xl font-bold">Motors</h2>
      <p className="text-dim">
        What each pin is, first to last: 1A 1B for the ends of one coil, 2A 2B for the other. Two leads with a few ohms
        between them are one coil.
      </p>
      {motors.map((m, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a line has no identity but its place
        <div key={i} className="mt-3 grid items-end gap-3 border-t-2 border-line pt-3 md:grid-cols-[1fr_1fr_1fr_auto]">
          <Field label="Motor" htmlFor={`motor-name-${i}`}>
            <TextInput id={`motor-name-${i}`} value={m.name} onChange={(name) => set(i, { ...m, name })} />
          </Field>
          <Field label="Its plug, pin by pin" htmlFor={`motor-leads-${i}`}>
            <TextInput
              id={`motor-leads-${i}`}
              className="font-mono"
              placeholder="1A 1B 2A 2B"
              value={m.leads}
              onChange={(leads) => set(i, { ...m, leads })}
            />
          </Field>
          <Field label="The board's header, pin by pin" htmlFor={`motor-header-${i}`}>
            <TextInput
              id={`motor-header-${i}`}
              className="font-mono"
              placeholder={headerPins ?? "1A 1B 2A 2B"}
              value={m.header}
              onChange={(header) => set(i, { ...m, header })}
            />
          </Field>
          <Check
            label="Reverse direction"
            checked={m.reverse ?? false}
            onChange={(reverse) => set(i, { ...m, reverse })}
          />
          <div className="md:col-span-3">{judged?.[i] && <Headers judged={judged[i]} />}</div>
          <Button danger onClick={() => onChange(motors.filter((_, k) => k !== i))}>
            Remove this motor
          </Button>
        </div>
      ))}
      <div className="mt-3">
        <Button
          onClick={() =>
            onChange([...motors, { name: `Motor ${motors.length + 1}`, leads: "", header: headerPins ?? "" }])
          }
        >
          Add a motor
        </Button>
      </div>
    </>
  );
}
