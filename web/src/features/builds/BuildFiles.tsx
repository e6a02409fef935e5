import { useState } from "react";
import { messageOf, type Schemas } from "../../api/client";
import { showDay } from "../../ui/dates";
import { Fault } from "../../ui/form";
import { postFile } from "../../ui/post";
import { useMayWork } from "../../ui/session";
import { useRefresh } from "../../ui/write";

const kinds = [
  ["build", "Add the built file"],
  ["configuration", "Add a configuration file"],
] as const;

/** The built file of a build, and the files that it was configured by: the way back in one step. */
export function BuildFiles({ build }: { build: Schemas["BuildSheet"] }) {
  const mayWork = useMayWork();
  const refresh = useRefresh();
  const [fault, setFault] = useState("");
  async function add(kind: string, file: File | undefined) {
    if (!file) return;
    setFault("");
    try {
      const ask = new URLSearchParams({ name: file.name, kind });
      await postFile(`/api/builds/${build.id}/files?${ask}`, file, "application/octet-stream", crypto.randomUUID());
      await refresh();
    } catch (error) {
      setFault(messageOf(error));
    }
  }
  return (
    <section aria-labelledby="files" className="mt-4">
      <h2 id="files" className="mb-1 text-2xl font-bold">
        Its files
      </h2>
      {build.files.length === 0 && (
        <p className="text-dim">None is kept: there is no way back to this build from here.</p>
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
            {f.kind}, {Math.ceil(f.bytes / 1024)} KiB, {f.addedBy}, {showDay(f.addedAt)}
            <span className="block font-mono text-sm break-all text-dim">{f.sha256}</span>
          </li>
        ))}
      </ul>
      <Fault text={fault} />
      {mayWork && (
        <div className="mt-2 flex flex-wrap gap-3">
          {kinds.map(([kind, label]) => (
            <label
              key={kind}
              className="inline-flex min-h-11 cursor-pointer items-center border-2 border-line bg-leaf px-4 font-semibold focus-within:outline-3 focus-within:outline-accent hover:border-accent"
            >
              {label}
              <input type="file" className="sr-only" onChange={(e) => add(kind, e.target.files?.[0])} />
            </label>
          ))}
        </div>
      )}
    </section>
  );
}
