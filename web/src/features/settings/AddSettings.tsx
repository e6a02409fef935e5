import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { Button, Check, Fault, Field, Select, TextArea, TextInput } from "../../ui/form";
import { Panel } from "../../ui/Panel";
import { postFile } from "../../ui/post";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

type Place = Schemas["SettingsOnRecord"]["place"];

const hints: Record<Place, string> = {
  "stored settings": "Send M503 and paste the reply. It is what the board has stored.",
  "file on the memory card":
    "The file in which the build stores its settings on the card. It belongs to the card, not to the machine.",
  "host configuration": "The sectioned file of the host, with its saved block at the end.",
  "build configuration": "The C header that the build was made from. It counts for every machine that runs the build.",
  "start code": "The start code of the slicer's profile for this machine, or the begin of a sliced file.",
};

const usual: Record<string, Place> = {
  compiled: "stored settings",
  hosted: "host configuration",
  scripted: "file on the memory card",
};

/** Adds a text of settings, pasted or as a file. Its secrets are masked before it is kept. */
export function AddSettings({
  machine,
  settings,
  onClose,
}: {
  machine: number;
  settings: Schemas["MachineSettings"];
  onClose: () => void;
}) {
  const { write, busy, fault, setFault } = useWrite();
  const runs = useQuery({
    queryKey: keys.runs(machine),
    queryFn: () => unwrap(api.GET("/api/machines/{id}/runs", { params: { path: { id: machine } } })),
  });
  const build = runs.data?.runs.find((r) => !r.to && r.buildId);
  const [place, setPlace] = useState<Place>(usual[settings.family] ?? "stored settings");
  const [name, setName] = useState("");
  const [text, setText] = useState("");
  const [files, setFiles] = useState<File[]>([]);
  const [original, setOriginal] = useState("");
  const [onCard, setOnCard] = useState(true);
  const card = place === "file on the memory card";
  const ofBuild = place === "build configuration" && build;
  return (
    <Panel open onOpenChange={onClose} title="Add settings">
      <form
        className="space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          if (files.length === 0 && !text.trim()) {
            setFault("Paste the settings, or choose their files.");
            return;
          }
          const one = (name: string, content: Blob) => {
            const ask = new URLSearchParams({ place, name, original });
            if (card && onCard) ask.set("card", "true");
            if (ofBuild) ask.set("build", String(build.buildId));
            return postFile(`/api/machines/${machine}/settings?${ask}`, content, "text/plain", crypto.randomUUID());
          };
          write(
            async () => {
              if (files.length === 0) return one(name || place, new Blob([text]));
              // What was taken goes off the list, so that a second try sends the rest.
              for (const [i, file] of files.entries()) {
                await one(files.length === 1 ? name || file.name : file.name, file);
                setFiles(files.slice(i + 1));
              }
            },
            () => {
              toast("Settings kept, and compared");
              onClose();
            },
          );
        }}
      >
        <Field label="Where these settings live" htmlFor="settings-place" hint={hints[place]}>
          <Select
            id="settings-place"
            value={place}
            onChange={(v) => setPlace(v as Place)}
            options={Object.keys(hints)}
          />
        </Field>
        {ofBuild && <p>They are kept with the build {build.name}.</p>}
        {card && (
          <Check
            label={`It is of the card that is in the machine${settings.card ? `: ${settings.card}` : ""}`}
            checked={onCard}
            onChange={setOnCard}
          />
        )}
        <Field label="Paste them here" htmlFor="settings-text">
          <TextArea
            id="settings-text"
            rows={8}
            className="font-mono"
            value={text}
            onChange={setText}
            disabled={files.length > 0}
            spellCheck={false}
          />
        </Field>
        <div className="flex flex-wrap items-center gap-3">
          <label className="inline-flex min-h-11 cursor-pointer items-center border-2 border-line bg-leaf px-4 font-semibold focus-within:outline-3 focus-within:outline-accent hover:border-accent">
            Or choose the files
            <input type="file" multiple className="sr-only" onChange={(e) => setFiles([...(e.target.files ?? [])])} />
          </label>
          {files.length > 0 && (
            <>
              <span className="break-all">{files.map((f) => f.name).join(", ")}</span>
              <Button onClick={() => setFiles([])}>Take {files.length === 1 ? "it" : "them"} out</Button>
            </>
          )}
        </div>
        <p className="text-dim">
          A configuration of several files is read as one: add those that it takes in (include) as well, and both
          headers of a build.
        </p>
        {files.length < 2 && (
          <Field
            label="Name"
            htmlFor="settings-name"
            hint="Of the file. One of the same name in the same place is replaced."
          >
            <TextInput
              id="settings-name"
              value={name}
              onChange={setName}
              placeholder={files[0]?.name ?? place}
              maxLength={120}
            />
          </Field>
        )}
        <Field
          label="Where the file with its secrets is kept"
          htmlFor="settings-original"
          hint="Passwords, keys and tokens are masked before anything is kept. Needed only where the text holds some."
        >
          <TextInput id="settings-original" value={original} onChange={setOriginal} maxLength={200} />
        </Field>
        <Fault text={fault} />
        <Button type="submit" main disabled={busy}>
          {busy ? "Reading and comparing …" : "Keep and compare"}
        </Button>
      </form>
    </Panel>
  );
}
