import type { Schemas } from "../../api/client";
import { Field, Select, TextArea, TextInput } from "../../ui/form";
import { OptionalNumber } from "../../ui/NumberInput";

export type Build = Schemas["Build"];

export const emptyBuild: Build = { name: "", family: "", features: {}, configuredFor: {} };

/** What is written of a build: what it is, which features it has, for what it is configured. */
export function BuildForm({
  build,
  onChange,
  features,
  stated = [],
}: {
  build: Build;
  onChange: (build: Build) => void;
  features: readonly string[];
  stated?: readonly Schemas["StatedTrait"][];
}) {
  const set = (change: Partial<Build>) => onChange({ ...build, ...change });
  const names = [...new Set([...features, ...Object.keys(build.features)])];
  const put = (of: "features" | "configuredFor", key: string, value: string) => {
    const now = { ...build[of] };
    if (value) now[key] = value;
    else delete now[key];
    set({ [of]: now });
  };
  return (
    <>
      <div className="grid gap-3 sm:grid-cols-2">
        <Field label="Name" htmlFor="build-name" hint="The shop's own; tells it from every other build">
          <TextInput id="build-name" value={build.name} onChange={(name) => set({ name })} required />
        </Field>
        <Field label="Family" htmlFor="build-family">
          <Select
            id="build-family"
            value={build.family}
            onChange={(family) => set({ family: family as Build["family"] })}
            options={["compiled", "hosted", "scripted"]}
            empty="Unknown"
          />
        </Field>
        <Field label="Version the screen shows" htmlFor="build-version">
          <TextInput
            id="build-version"
            value={build.buildVersion ?? ""}
            onChange={(buildVersion) => set({ buildVersion })}
          />
        </Field>
        {build.family === "hosted" && (
          <Field label="Version of the host's software" htmlFor="build-host">
            <TextInput
              id="build-host"
              value={build.hostVersion ?? ""}
              onChange={(hostVersion) => set({ hostVersion })}
            />
          </Field>
        )}
        <Field label="Machine label it shows" htmlFor="build-label">
          <TextInput id="build-label" value={build.label ?? ""} onChange={(label) => set({ label })} />
        </Field>
        <Field label="Name of its file" htmlFor="build-file">
          <TextInput id="build-file" value={build.file ?? ""} onChange={(file) => set({ file })} />
        </Field>
        <Field label="Size, KiB" htmlFor="build-size">
          <OptionalNumber id="build-size" unit="KiB" value={build.kib} onChange={(kib) => set({ kib })} />
        </Field>
      </div>
      <fieldset>
        <legend className="mb-1 font-bold">Features</legend>
        <div className="grid gap-x-6 sm:grid-cols-2">
          {names.map((name) => (
            <div key={name} className="flex items-center justify-between gap-3 border-b border-rule py-1">
              <label htmlFor={`feature-${name}`}>{name}</label>
              <Select
                id={`feature-${name}`}
                className="max-w-32"
                value={build.features[name] ?? ""}
                onChange={(v) => put("features", name, v)}
                options={["yes", "no"]}
                empty="unknown"
              />
            </div>
          ))}
        </div>
      </fieldset>
      {stated.length > 0 && (
        <fieldset>
          <legend className="mb-1 font-bold">Configured for</legend>
          <p className="mb-1 text-dim">
            Left empty, what a machine was when it was flashed counts, as far as that is known.
          </p>
          <div className="grid gap-x-6 sm:grid-cols-2">
            {stated.map((t) => (
              <div key={t.key} className="flex items-center justify-between gap-3 border-b border-rule py-1">
                <label htmlFor={`for-${t.key}`}>{t.label}</label>
                {t.choices.length > 0 ? (
                  <Select
                    id={`for-${t.key}`}
                    className="max-w-44"
                    value={build.configuredFor[t.key] ?? ""}
                    onChange={(v) => put("configuredFor", t.key, v)}
                    options={t.choices}
                    empty="unknown"
                  />
                ) : (
                  <TextInput
                    id={`for-${t.key}`}
                    className="max-w-44"
                    value={build.configuredFor[t.key] ?? ""}
                    onChange={(v) => put("configuredFor", t.key, v)}
                  />
                )}
              </div>
            ))}
          </div>
        </fieldset>
      )}
      <Field label="Note" htmlFor="build-note">
        <TextArea id="build-note" rows={2} value={build.note ?? ""} onChange={(note) => set({ note })} />
      </Field>
    </>
  );
}
