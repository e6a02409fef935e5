import { useQuery } from "@tanstack/react-query";
import { api, type Schemas, unwrap } from "../api/client";
import { keys } from "../api/keys";
import { Check, Field, Select, TextInput } from "./form";
import { Stopwatch } from "./Timer";
import { ZOffsetLoop } from "./ZOffsetLoop";

type Data = Schemas["Data"];
export type FormProps = { data: Data; onChange: (data: Data) => void; idPrefix: string };

/** What a step asks for besides its tick; judged on the server when it is ticked. */
export function StepForm({
  step,
  family,
  propose,
  ...p
}: FormProps & {
  step: Pick<
    Schemas["Step"],
    "given" | "form" | "unit" | "stores" | "endstop" | "parts" | "sensors" | "configured" | "mainsBed"
  >;
  family?: string;
  /** A file name that the board has not seen. */
  propose?: string;
}) {
  switch (step.form) {
    case "build":
      return <BuildForm {...p} configured={step.configured} />;
    case "file-name":
      return <FileNameForm {...p} last={step.given?.last} fixed={step.given?.fixed} propose={propose} />;
    case "cold":
      return <ColdForm {...p} sensors={step.sensors} />;
    case "protection":
      return <ProtectionForm {...p} configured={step.configured} mainsBed={step.mainsBed} />;
    case "z-offset":
      return <ZOffsetLoop {...p} stores={step.stores} family={family} endstop={step.endstop} />;
    case "calibration":
      return (
        <div className="grid gap-4 sm:grid-cols-2">
          {step.parts && step.parts.length > 0 ? (
            <Numbers {...p} parts={step.parts} />
          ) : (
            <Text {...p} name="value" label={`Value found${step.unit ? `, ${step.unit}` : ""}`} />
          )}
          <StoreField {...p} stores={step.stores} />
        </div>
      );
    case "measures":
      return <Numbers {...p} parts={step.parts ?? []} />;
    case "tick":
    case "note":
      return null;
  }
}

/** What a calculator's figures are in a step's form; a value that says its unit itself is written with it. */
export function stepValues(
  step: Pick<Schemas["Step"], "unit" | "parts">,
  values: string[],
  unit: string,
): Pick<Data, "value" | "numbers"> {
  if (step.parts && step.parts.length > 0) return { numbers: values };
  return { value: step.unit || !unit ? values[0] : `${values[0]} ${unit}` };
}

type Key =
  | "version"
  | "buildName"
  | "label"
  | "file"
  | "size"
  | "room"
  | "nozzle"
  | "bed"
  | "alarm"
  | "alarmText"
  | "configuration"
  | "bedTemperature"
  | "soakMinutes"
  | "startOffset"
  | "licensed"
  | "earth"
  | "instrument"
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

/** The numbers of which a value is made, each in its own field. */
function Numbers({ data, onChange, idPrefix, parts }: FormProps & { parts: readonly Schemas["Component"][] }) {
  return (
    <fieldset className="grid grid-cols-2 gap-3 sm:col-span-2 sm:grid-cols-3">
      <legend className="sr-only">Value found</legend>
      {parts.map((part, i) => (
        <Field
          key={part.name}
          label={`${part.name}${part.unit ? `, ${part.unit}` : ""}`}
          htmlFor={`${idPrefix}-${part.name}`}
        >
          <TextInput
            id={`${idPrefix}-${part.name}`}
            value={data.numbers?.[i] ?? ""}
            onChange={(v) =>
              onChange({ ...data, numbers: parts.map((_, j) => (j === i ? v : (data.numbers?.[j] ?? ""))) })
            }
            inputMode="decimal"
            autoComplete="off"
            className="font-mono text-xl"
          />
        </Field>
      ))}
    </fieldset>
  );
}

function BuildForm({ configured, ...p }: FormProps & { configured?: boolean }) {
  const { data, onChange, idPrefix } = p;
  const builds = useQuery({ queryKey: keys.builds(), queryFn: () => unwrap(api.GET("/api/builds")) });
  return (
    <div className="grid gap-4 sm:grid-cols-2">
      <Field label="Build" htmlFor={`${idPrefix}-build`} hint="Which build on record was flashed">
        <Select
          id={`${idPrefix}-build`}
          value={data.build ? String(data.build) : ""}
          onChange={(v) => onChange({ ...data, build: Number(v) || undefined })}
          options={(builds.data?.builds ?? []).map((b) => [String(b.id), b.name] as const)}
          empty="None of those on record"
        />
      </Field>
      {!data.build && (
        <Text {...p} name="buildName" label="Record it under the name" hint="Left empty, the run stays unidentified." />
      )}
      <Text {...p} name="version" label="Version the screen shows" />
      <Text {...p} name="label" label="Machine label the screen shows" />
      <Text
        {...p}
        name="file"
        label="Name of the file flashed"
        hint="Must differ from the last one flashed on this board."
      />
      <Text {...p} name="size" label="Size of the build, KiB" numeric />
      {configured && (
        <Text {...p} name="configuration" label="Configuration in use" hint="Its date, revision or checksum." />
      )}
    </div>
  );
}

/** The name of the file on the card, before the card is written: it is judged when the step is ticked. */
function FileNameForm({ last, fixed, propose, ...p }: FormProps & { last?: string; fixed?: string; propose?: string }) {
  return (
    <Text
      {...p}
      name="file"
      label="Name of the file on the card"
      hint={
        fixed
          ? `This board's bootloader takes ${fixed} alone.`
          : `${last ? `The last file flashed on this board was ${last}: the new one needs another name` : "A name that this board has not seen"}${propose ? `, such as ${propose}` : ""}.`
      }
    />
  );
}

function ColdForm({ sensors, ...p }: FormProps & { sensors?: readonly string[] }) {
  const { data, onChange, idPrefix } = p;
  if (sensors && sensors.length > 0)
    return (
      <div className="grid gap-4 sm:grid-cols-3">
        <Text {...p} name="room" label="Room, °C" numeric />
        {sensors.map((name, i) => (
          <Field key={name} label={`${name} shows, °C`} htmlFor={`${idPrefix}-shown-${i}`}>
            <TextInput
              id={`${idPrefix}-shown-${i}`}
              value={data.shown?.[i] ?? ""}
              onChange={(v) =>
                onChange({ ...data, shown: sensors.map((_, j) => (j === i ? v : (data.shown?.[j] ?? ""))) })
              }
              inputMode="decimal"
              autoComplete="off"
              className="font-mono text-xl"
            />
          </Field>
        ))}
      </div>
    );
  return (
    <div className="grid gap-4 sm:grid-cols-3">
      <Text {...p} name="room" label="Room, °C" numeric />
      <Text {...p} name="nozzle" label="Nozzle shows, °C" numeric />
      <Text {...p} name="bed" label="Bed shows, °C" numeric />
    </div>
  );
}

function ProtectionForm({ configured, mainsBed, ...p }: FormProps & { configured?: boolean; mainsBed?: boolean }) {
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
            ...(mainsBed ? [] : ([["heater-lead", "Heater-lead test"]] as const)),
          ]}
          empty="Choose"
        />
      </Field>
      <Check
        label="No alarm came: unprotected"
        checked={data.silent ?? false}
        onChange={(silent) => onChange({ ...data, silent })}
      />
      {!data.silent && (
        <Stopwatch
          place={`alarm-${idPrefix}`}
          take="The alarm is here"
          onTake={(seconds) => onChange({ ...data, alarm: String(seconds) })}
        />
      )}
      {!data.silent && (
        <div className="grid gap-3 sm:grid-cols-2">
          <Text {...p} name="alarm" label="Alarm after, seconds" numeric />
          <Text
            {...p}
            name="alarmText"
            label="Text of the alarm"
            hint="As the machine showed it. One about a minimum temperature is another alarm."
          />
        </div>
      )}
      {configured && (
        <Text
          {...p}
          name="configuration"
          label="Configuration in use"
          hint="Its date, revision or checksum: the proof is good for it alone."
        />
      )}
    </div>
  );
}
