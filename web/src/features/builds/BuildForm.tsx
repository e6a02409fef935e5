import type { Schemas } from "../../api/client";
import { DayInput } from "../../ui/DayInput";
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
        <Field
          label="Version of its configuration"
          htmlFor="build-config"
          hint="Source and example configuration must be of one version"
        >
          <TextInput
            id="build-config"
            value={build.configVersion ?? ""}
            onChange={(configVersion) => set({ configVersion })}
          />
        </Field>
        {build.family === "hosted" && (
          <>
            <Field label="Version of the host's software" htmlFor="build-host">
              <TextInput
                id="build-host"
                value={build.hostVersion ?? ""}
                onChange={(hostVersion) => set({ hostVersion })}
              />
            </Field>
            <Field label="Version of the API server" htmlFor="build-api">
              <TextInput id="build-api" value={build.apiVersion ?? ""} onChange={(apiVersion) => set({ apiVersion })} />
            </Field>
            <Field label="Version of the web page" htmlFor="build-page">
              <TextInput
                id="build-page"
                value={build.pageVersion ?? ""}
                onChange={(pageVersion) => set({ pageVersion })}
              />
            </Field>
            <Field label="Add-ons and their versions" htmlFor="build-addons">
              <TextInput id="build-addons" value={build.addOns ?? ""} onChange={(addOns) => set({ addOns })} />
            </Field>
          </>
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
        <Field label="Processor" htmlFor="build-processor">
          <TextInput id="build-processor" value={build.processor ?? ""} onChange={(processor) => set({ processor })} />
        </Field>
        <Field
          label="Start offset, KiB"
          htmlFor="build-offset"
          hint="Where the bootloader has to start it: 0x7000 is 28"
        >
          <OptionalNumber id="build-offset" unit="KiB" value={build.offset} onChange={(offset) => set({ offset })} />
        </Field>
        <Field label="Built by" htmlFor="build-by">
          <TextInput id="build-by" value={build.builtBy ?? ""} onChange={(builtBy) => set({ builtBy })} />
        </Field>
        <Field label="Built on" htmlFor="build-on">
          <DayInput id="build-on" value={build.builtOn ?? ""} onChange={(builtOn) => set({ builtOn })} />
        </Field>
      </div>
      <Sold build={build} set={set} />
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

/** What a build, or the board that it came on, was sold as. */
function Sold({ build, set }: { build: Build; set: (change: Partial<Build>) => void }) {
  const sold = build.advertised ?? {};
  const put = (change: Partial<NonNullable<Build["advertised"]>>) => set({ advertised: { ...sold, ...change } });
  return (
    <details open={!!build.advertised}>
      <summary className="min-h-10 cursor-pointer py-1 font-bold">What it was advertised as</summary>
      <div className="grid gap-3 sm:grid-cols-2">
        <Field label="Version advertised" htmlFor="sold-version">
          <TextInput id="sold-version" value={sold.version ?? ""} onChange={(version) => put({ version })} />
        </Field>
        <Field label="Supplier" htmlFor="sold-supplier">
          <TextInput id="sold-supplier" value={sold.supplier ?? ""} onChange={(supplier) => put({ supplier })} />
        </Field>
        <Field label="Bootloader advertised" htmlFor="sold-bootloader">
          <Select
            id="sold-bootloader"
            value={sold.bootloader ?? ""}
            onChange={(v) => put({ bootloader: v as "yes" })}
            options={["yes", "no"]}
            empty="not said"
          />
        </Field>
        <Field label="Bootloader found at delivery" htmlFor="sold-found">
          <Select
            id="sold-found"
            value={sold.found ?? ""}
            onChange={(v) => put({ found: v as "yes" })}
            options={["yes", "no"]}
            empty="not looked"
          />
        </Field>
      </div>
    </details>
  );
}
