import { type ReactNode, useState } from "react";
import { api, messageOf, type Schemas, unwrap } from "../../api/client";
import { Button, Fault } from "../../ui/form";
import { LinkButton } from "../../ui/LinkButton";
import { upload } from "../../ui/post";
import { toast } from "../../ui/toast";
import { useRefresh } from "../../ui/write";
import { FileField } from "./FileField";

/** Takes a JSON file, shows what it would do, and brings it in. */
function JsonIn<T extends { faults: string[] }>({
  path,
  label,
  hint,
  most,
  done,
  children,
}: {
  path: "/api/catalogue" | "/api/record";
  label: string;
  hint: string;
  most: number;
  done: (plan: T) => string;
  children: (plan: T) => ReactNode;
}) {
  const refresh = useRefresh();
  const [file, setFile] = useState<File>();
  const [plan, setPlan] = useState<T>();
  const [fault, setFault] = useState("");
  const [busy, setBusy] = useState("");
  async function run(step: "preview" | "import", chosen: File) {
    setBusy(step);
    setFault("");
    try {
      const body = { sha256: await upload(chosen), name: chosen.name };
      const answer = (await unwrap(api.POST(`${path}/${step}`, { body }))) as unknown as T;
      if (step === "preview") {
        setPlan(answer);
        return;
      }
      toast(done(answer));
      setPlan(undefined);
      setFile(undefined);
      await refresh();
    } catch (error) {
      setFault(messageOf(error));
    } finally {
      setBusy("");
    }
  }
  return (
    <div className="max-w-3xl space-y-5">
      <FileField
        label={busy === "preview" ? "Reading the file …" : label}
        hint={hint}
        accept=".json,application/json"
        most={most}
        onFile={(chosen) => {
          setFile(chosen);
          setPlan(undefined);
          run("preview", chosen);
        }}
      />
      <Fault text={fault} />
      {file && plan && (
        <section className="bg-leaf px-5 py-4">
          <h2 className="mb-2 text-2xl font-bold">{file.name}</h2>
          {children(plan)}
          {plan.faults.length > 0 ? (
            <div className="mt-3 border-l-4 border-bad bg-bad-wash px-4 py-2">
              <p className="font-bold">Nothing can be imported before this is corrected:</p>
              <ul className="list-disc pl-6">
                {plan.faults.map((f) => (
                  <li key={f}>{f}</li>
                ))}
              </ul>
            </div>
          ) : (
            <Button main className="mt-4" disabled={busy !== ""} onClick={() => run("import", file)}>
              {busy === "import" ? "Writing it …" : "Import it"}
            </Button>
          )}
        </section>
      )}
    </div>
  );
}

function Entries({ title, list }: { title: string; list: readonly Schemas["Entry"][] }) {
  if (list.length === 0) return null;
  return (
    <details>
      <summary className="min-h-11 cursor-pointer font-semibold">
        {title}: {list.length}
      </summary>
      <ul className="columns-2">
        {list.map((e) => (
          <li key={`${e.section} ${e.key}`}>
            <span className="text-dim">{e.section}</span> {e.label}
          </li>
        ))}
      </ul>
    </details>
  );
}

export function CatalogueIn() {
  return (
    <>
      <JsonIn<Schemas["MergePlan"]>
        path="/api/catalogue"
        label="Choose or drop the catalogue"
        hint="JSON of the format wardifex-catalogue: kinds of part, usual positions, inspections, models and kits; what is here and not in the file stays"
        most={8 * 1024 * 1024}
        done={(p) => `${p.added.length} added, ${p.changed.length} changed`}
      >
        {(p) => (
          <>
            <Entries title="Would be added" list={p.added} />
            <Entries title="Would be changed" list={p.changed} />
            <p>{p.same} entries are here already just so.</p>
          </>
        )}
      </JsonIn>
      <p className="mt-5">
        <LinkButton href="/api/catalogue.json">The catalogue here, as JSON</LinkButton>
      </p>
    </>
  );
}

export function RecordIn() {
  return (
    <>
      <JsonIn<Schemas["ImportPlan"]>
        path="/api/record"
        label="Choose or drop the record"
        hint="JSON of the format wardifex-record: machines with parts, readings, work, faults and photos"
        most={256 * 1024 * 1024}
        done={(p) => `${p.machines.length} machines imported`}
      >
        {(p) => (
          <>
            <p className="text-lg">
              {p.machines.length} machines: <b>{p.machines.join(", ")}</b>
            </p>
            <p>
              {p.parts} parts with {p.readings} readings and {p.photos} photos beside them.
            </p>
            <Entries title="Catalogue entries added or changed with it" list={p.catalogue} />
          </>
        )}
      </JsonIn>
      <p className="mt-5">
        <LinkButton href="/api/record.json">The whole fleet's record, as JSON</LinkButton>
      </p>
    </>
  );
}
