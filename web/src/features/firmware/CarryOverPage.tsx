import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { State } from "../../ui/badges";
import { DiffText } from "../../ui/DiffText";
import { Button, Fault, Field, Select, TextInput } from "../../ui/form";
import { Page } from "../../ui/Page";
import { upload } from "../../ui/post";
import { firmwarePages, SubPlaces } from "../../ui/SubPlaces";
import { useWrite } from "../../ui/write";

type Carried = Schemas["CarriedOver"];
type Item = Schemas["Item"];
type Action = Schemas["Decision"]["action"];

const tones = {
  "in conflict": "bad",
  renamed: "look",
  gone: "look",
  kept: "good",
  new: "cond",
  same: "dim",
} as const;

/** Carries a machine's own values into the example configuration of a new version. */
export default function CarryOverPage() {
  const [params, setParams] = useSearchParams();
  const machine = Number(params.get("machine")) || 0;
  const fleet = useQuery({ queryKey: keys.fleet(), queryFn: () => unwrap(api.GET("/api/machines")) });
  const settings = useQuery({
    queryKey: keys.machineSettings(machine),
    enabled: machine > 0,
    queryFn: () => unwrap(api.GET("/api/machines/{id}/settings", { params: { path: { id: machine } } })),
  });
  const { write, busy, fault, setFault } = useWrite();
  const [own, setOwn] = useState(0);
  const [from, setFrom] = useState("");
  const [to, setTo] = useState("");
  const [example, setExample] = useState<File>();
  const [before, setBefore] = useState<File>();
  const [sent, setSent] = useState<{ example: string; before?: string }>();
  const [carried, setCarried] = useState<Carried>();
  const files = settings.data?.files.filter((f) => f.form && f.place !== "start code") ?? [];
  const chosen = files.find((f) => f.id === own) ?? files[0];
  async function ask(names = sent) {
    if (!chosen || !names) return;
    await write(
      () =>
        unwrap(
          api.POST("/api/carry-over", {
            body: {
              own: chosen.id,
              from,
              to,
              example: { sha256: names.example },
              ...(names.before && { before: { sha256: names.before } }),
            },
          }),
        ),
      setCarried,
    );
  }
  return (
    <Page
      title="Carry a configuration over to a new version"
      lead="The machine's own values go into the new version's example. What is in conflict, renamed or gone is decided once, for the whole fleet."
    >
      <SubPlaces label="Firmware" pages={firmwarePages} />
      <form
        className="mb-6 grid gap-3 sm:grid-cols-2 lg:grid-cols-3"
        onSubmit={async (e) => {
          e.preventDefault();
          if (!chosen || !example) {
            setFault(
              chosen ? "Choose the new version's example." : "Choose a machine of which settings are on record.",
            );
            return;
          }
          await write(
            async () => ({
              example: await upload(example, "settings"),
              before: before && (await upload(before, "settings")),
            }),
            (names) => {
              setSent(names);
              void ask(names);
            },
          );
        }}
      >
        <Field label="Machine" htmlFor="carry-machine">
          <Select
            id="carry-machine"
            value={machine ? String(machine) : ""}
            onChange={(v) => setParams({ machine: v })}
            options={(fleet.data?.machines ?? []).map((m) => [String(m.id), m.name] as const)}
            empty="Choose a machine"
          />
        </Field>
        <Field
          label="Its configuration"
          htmlFor="carry-own"
          hint={
            machine > 0 && files.length === 0
              ? "None is on record: add it on the machine's page of settings."
              : undefined
          }
        >
          <Select
            id="carry-own"
            value={chosen ? String(chosen.id) : ""}
            onChange={(v) => setOwn(Number(v))}
            options={files.map((f) => [String(f.id), `${f.name}, ${f.place}`] as const)}
            empty={files.length === 0 ? "None" : undefined}
          />
        </Field>
        <div className="grid grid-cols-2 gap-3">
          <Field label="From version" htmlFor="carry-from">
            <TextInput id="carry-from" value={from} onChange={setFrom} required maxLength={60} />
          </Field>
          <Field label="To version" htmlFor="carry-to">
            <TextInput id="carry-to" value={to} onChange={setTo} required maxLength={60} />
          </Field>
        </div>
        <ChooseFile label="Example of the new version" file={example} onFile={setExample} />
        <ChooseFile label="Example of the old version, if you have it" file={before} onFile={setBefore} />
        <div className="sm:col-span-2 lg:col-span-3">
          <Fault text={fault} />
          <Button type="submit" main disabled={busy}>
            {busy ? "Comparing the configurations …" : "Compare"}
          </Button>
        </div>
      </form>
      {carried && chosen && (
        <Result carried={carried} family={chosen.family} from={from} to={to} onDecided={() => ask()} />
      )}
    </Page>
  );
}

function ChooseFile({ label, file, onFile }: { label: string; file?: File; onFile: (f?: File) => void }) {
  return (
    <div className="flex flex-wrap items-center gap-3 self-end">
      <label className="inline-flex min-h-11 cursor-pointer items-center border-2 border-line bg-leaf px-4 font-semibold focus-within:outline-3 focus-within:outline-accent hover:border-accent">
        {label}
        <input type="file" className="sr-only" onChange={(e) => onFile(e.target.files?.[0])} />
      </label>
      {file && <span>{file.name}</span>}
    </div>
  );
}

function Result({
  carried: c,
  family,
  from,
  to,
  onDecided,
}: {
  carried: Carried;
  family: string;
  from: string;
  to: string;
  onDecided: () => void;
}) {
  const { write, busy, fault } = useWrite();
  const decide = (item: Item, action: Action) =>
    write(
      () =>
        unwrap(
          api.POST("/api/carry-over/decisions", {
            body: {
              family: family as "compiled" | "hosted" | "scripted",
              from,
              to,
              decision: { section: item.section, word: item.word, action, to: item.to },
            },
          }),
        ),
      onDecided,
    );
  return (
    <>
      <p className="mb-2 text-lg font-semibold" role="status">
        {c.open > 0
          ? `${c.open} ${c.open === 1 ? "value has" : "values have"} to be decided`
          : "Everything is decided; look at what is to be checked by hand"}
      </p>
      <Fault text={fault} />
      <div className="mb-6 relative overflow-x-auto bg-leaf">
        <table className="w-full text-left">
          <thead>
            <tr className="border-b-2 border-line text-dim">
              {["Word", "What becomes of it", "Own", "Example before", "Example now", "Decided"].map((h) => (
                <th key={h} className="px-3 py-1">
                  {h}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {c.items
              .filter((i) => i.state !== "same")
              .map((i) => (
                <tr key={`${i.section} ${i.word}`} className="border-b border-rule align-baseline">
                  <td className="px-3 py-1 font-mono break-all">{i.section ? `[${i.section}] ${i.word}` : i.word}</td>
                  <td className="px-3 py-1">
                    <State tone={tones[i.state]}>{i.state}</State> {i.to && <b className="font-mono">{i.to}</b>}
                  </td>
                  <td className="px-3 py-1 font-mono">{i.own}</td>
                  <td className="px-3 py-1 font-mono">{i.before}</td>
                  <td className="px-3 py-1 font-mono">{i.now}</td>
                  <td className="px-3 py-1">
                    <div className="flex flex-wrap gap-2">
                      {(i.state === "new" ? [] : i.possible).map((a) => (
                        <Button
                          key={a}
                          disabled={busy}
                          aria-pressed={i.decided?.action === a}
                          aria-label={`${a}: ${i.word}`}
                          className={i.decided?.action === a ? "border-accent bg-wash" : ""}
                          onClick={() => decide(i, a as Action)}
                        >
                          {a}
                        </Button>
                      ))}
                    </div>
                  </td>
                </tr>
              ))}
          </tbody>
        </table>
      </div>
      {c.hand.length > 0 && (
        <section aria-labelledby="hand" className="mb-6">
          <h2 id="hand" className="mb-1 text-2xl font-bold">
            Check by hand
          </h2>
          <ul className="list-disc pl-6">
            {c.hand.map((h) => (
              <li key={h}>{h}</li>
            ))}
          </ul>
        </section>
      )}
      <section aria-labelledby="result">
        <h2 id="result" className="mb-1 text-2xl font-bold">
          The new configuration
        </h2>
        {c.diff ? <DiffText text={c.diff} name="configuration.patch" /> : <p>Nothing of the example changes.</p>}
        <DiffText text={c.result} name="configuration" />
      </section>
    </>
  );
}
