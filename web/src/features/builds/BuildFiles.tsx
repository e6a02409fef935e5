import { useState } from "react";
import { Link } from "react-router";
import { api, messageOf, type Schemas, unwrap } from "../../api/client";
import { showDay } from "../../ui/dates";
import { Button, Fault, Field, TextInput } from "../../ui/form";
import { postFile } from "../../ui/post";
import { useMayWork } from "../../ui/session";
import { useRefresh } from "../../ui/write";

const kinds = [
  ["build", "Add the built file"],
  ["configuration", "Add configuration files"],
] as const;

/** The built file of a build, and the files that it was configured by: the way back in one step, and what
 * is held against every machine that runs it. */
export function BuildFiles({ build }: { build: Schemas["BuildSheet"] }) {
  const mayWork = useMayWork();
  const refresh = useRefresh();
  const [fault, setFault] = useState("");
  const [original, setOriginal] = useState("");
  async function add(kind: string, files: FileList | null) {
    setFault("");
    try {
      for (const file of files ?? []) {
        const ask = new URLSearchParams({ name: file.name, kind, original });
        await postFile(`/api/builds/${build.id}/files?${ask}`, file, "application/octet-stream", crypto.randomUUID());
      }
    } catch (error) {
      setFault(messageOf(error));
    }
    await refresh();
  }
  return (
    <section aria-labelledby="files" className="mt-4">
      <h2 id="files" className="mb-1 text-2xl font-bold">
        Its files
      </h2>
      {build.files.length === 0 && (
        <p className="text-dim">The built file is not kept: there is no way back to this build from here.</p>
      )}
      <ul className="bg-leaf">
        {build.files.map((f) => (
          <li key={f.id} className="border-b border-rule px-3 py-1">
            <a
              href={`/api/builds/${build.id}/files/${f.id}`}
              download
              className="inline-flex min-h-10 items-center font-bold break-all underline underline-offset-4 compact:min-h-0"
            >
              {f.name}
            </a>{" "}
            built file, {Math.ceil(f.bytes / 1024)} KiB, {f.addedBy}, {showDay(f.addedAt)}
            <span className="block font-mono text-sm break-all text-dim">{f.sha256}</span>
          </li>
        ))}
        {build.configurations.map((f) => (
          <li key={f.id} className="border-b border-rule px-3 py-1">
            <Link
              to={`/settings-file/${f.id}`}
              className="inline-flex min-h-10 items-center font-bold break-all underline underline-offset-4 compact:min-h-0"
            >
              {f.name}
            </Link>{" "}
            configuration, {Math.ceil(f.bytes / 1024)} KiB, {f.addedBy}, {showDay(f.addedAt)}
            {f.secrets > 0 && ` · ${f.secrets} masked; the file that holds them: ${f.original || "not on record"}`}
            {mayWork && (
              <Button
                className="ml-3"
                aria-label={`Remove ${f.name}`}
                onClick={() =>
                  unwrap(api.POST("/api/settings-files/{id}/end", { params: { path: { id: f.id } } })).then(
                    refresh,
                    (e) => setFault(messageOf(e)),
                  )
                }
              >
                Remove
              </Button>
            )}
          </li>
        ))}
      </ul>
      <Fault text={fault} />
      {mayWork && (
        <div className="mt-2 max-w-md">
          <Field
            label="Where a configuration with its secrets is kept"
            htmlFor="build-original"
            hint="Passwords, keys and tokens are masked before anything is kept. Needed only where it holds some."
          >
            <TextInput id="build-original" value={original} onChange={setOriginal} maxLength={200} />
          </Field>
        </div>
      )}
      {mayWork && (
        <div className="mt-2 flex flex-wrap gap-3">
          {kinds.map(([kind, label]) => (
            <label
              key={kind}
              className="inline-flex min-h-11 cursor-pointer items-center border-2 border-line bg-leaf px-4 font-semibold focus-within:outline-3 focus-within:outline-accent hover:border-accent"
            >
              {label}
              <input
                type="file"
                multiple={kind === "configuration"}
                className="sr-only"
                onChange={(e) => add(kind, e.target.files)}
              />
            </label>
          ))}
        </div>
      )}
    </section>
  );
}
