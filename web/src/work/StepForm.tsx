import type { Schemas } from "../api/client";
import { Check, Field, Select, TextInput } from "../parts/form";
import { ZOffsetLoop } from "./ZOffsetLoop";

type Data = Schemas["Data"];
export type FormProps = { data: Data; onChange: (data: Data) => void; idPrefix: string };

/** What a step asks for besides its tick; judged on the server when it is ticked. */
export function StepForm({
  step,
  family,
  ...p
}: FormProps & { step: Pick<Schemas["Step"], "form" | "unit" | "stores">; family?: string }) {
  switch (step.form) {
    case "build":
      return <BuildForm {...p} />;
    case "cold":
      return <ColdForm {...p} />;
    case "protection":
      return <ProtectionForm {...p} />;
    case "z-offset":
      return <ZOffsetLoop {...p} stores={step.stores} family={family} />;
    case "calibration":
      return (
        <div className="grid gap-4 sm:grid-cols-2">
          <Text {...p} name="value" label={`Value found${step.unit ? `, ${step.unit}` : ""}`} />
          <StoreField {...p} stores={step.stores} />
        </div>
      );
    case "tick":
    case "note":
      return null;
  }
}

type Key =
  | "version"
  | "label"
  | "file"
  | "size"
  | "room"
  | "nozzle"
  | "bed"
  | "alarm"
  | "bedTemperature"
  | "soakMinutes"
  | "startOffset"
  | "value";

export function Text({
  data,
  onChange,
  idPrefix,
  name,
  label,
  hint,
  numeric,
}: FormProps & { name: Key; label: string; hint?: string; numeric?: boolean }) {
  const id = `${idPrefix}-${name}`;
  return (
    <Field label={label} htmlFor={id} hint={hint}>
      <TextInput
        id={id}
        value={data[name] ?? ""}
        onChange={(v) => onChange({ ...data, [name]: v })}
        inputMode={numeric ? "decimal" : "text"}
        autoComplete="off"
        className="font-mono text-xl"
      />
    </Field>
  );
}

export function StoreField({ data, onChange, idPrefix, stores = [] }: FormProps & { stores?: readonly string[] }) {
  return (
    <Field
      label="Where the value is kept"
      htmlFor={`${idPrefix}-store`}
      hint="A value kept on a card belongs to the card, not to the machine."
    >
      <Select
        id={`${idPrefix}-store`}
        value={data.store ?? ""}
        onChange={(store) => onChange({ ...data, store })}
        options={stores}
        empty="Choose"
      />
    </Field>
  );
}

function BuildForm(p: FormProps) {
  return (
    <div className="grid gap-4 sm:grid-cols-2">
      <Text {...p} name="version" label="Version the screen shows" />
      <Text {...p} name="label" label="Machine label the screen shows" />
      <Text
        {...p}
        name="file"
        label="Name of the file flashed"
        hint="Must differ from the last one flashed on this board."
      />
      <Text {...p} name="size" label="Size of the build, KiB" numeric />
    </div>
  );
}

function ColdForm(p: FormProps) {
  return (
    <div className="grid gap-4 sm:grid-cols-3">
      <Text {...p} name="room" label="Room, °C" numeric />
      <Text {...p} name="nozzle" label="Nozzle shows, °C" numeric />
      <Text {...p} name="bed" label="Bed shows, °C" numeric />
    </div>
  );
}

function ProtectionForm(p: FormProps) {
  const { data, onChange, idPrefix } = p;
  return (
    <div className="space-y-3">
      <Field label="Which test" htmlFor={`${idPrefix}-school`}>
        <Select
          id={`${idPrefix}-school`}
          value={data.school ?? ""}
          onChange={(school) => onChange({ ...data, school })}
          options={[
            ["no-heat", "No-heat test over USB"],
            ["heater-lead", "Heater-lead test"],
          ]}
          empty="Choose"
        />
      </Field>
      <Check
        label="No alarm came: unprotected"
        checked={data.silent ?? false}
        onChange={(silent) => onChange({ ...data, silent })}
      />
      {!data.silent && <Text {...p} name="alarm" label="Alarm after, seconds" numeric />}
    </div>
  );
}
