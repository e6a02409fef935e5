import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { State } from "../../ui/badges";
import { BookPanel, type ToBook } from "../../ui/bookings/BookPanel";
import { showDay } from "../../ui/dates";
import { Button, Check } from "../../ui/form";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { useMayWork } from "../../ui/session";
import { Loaded } from "../../ui/states";
import { held, repairedCopy, save } from "./held";
import { size, tally, tones } from "./words";

type Judged = Schemas["JudgedFile"];
type OnMachine = Schemas["FileOnMachine"];

/** One sliced file on every machine: where it prints, where not, and why, line by line. */
export default function FilePage() {
  const id = Number(useParams().id);
  const query = useQuery({
    queryKey: keys.printFile(id),
    queryFn: () => unwrap(api.GET("/api/print-files/{id}", { params: { path: { id } } })),
  });
  return (
    <Loaded query={query} what="Judging the file on every machine">
      {(file) => <FileView file={file} />}
    </Loaded>
  );
}

function FileView({ file: f }: { file: Judged }) {
  const [book, setBook] = useState<ToBook>();
  const [free, setFree] = useState(false);
  const [mine, setMine] = useState(held.get(f.id));
  const now = (m: OnMachine) => ["free", "attended only"].includes(m.machine.state) && !m.machine.taken;
  const shown = f.machines.filter((m) => !free || now(m));
  return (
    <Page
      title={f.name}
      lead={
        <>
          {[
            f.takes,
            f.size && `prints ${f.size}`,
            f.filament && `${f.filament} of filament`,
            f.hints.filament,
            f.hints.nozzle && `nozzle ${f.hints.nozzle} mm`,
            f.labels ? `${f.labels} objects labelled` : "objects not labelled",
            `${f.lines.toLocaleString("en-GB")} lines, ${size(f.bytes)}`,
          ]
            .filter(Boolean)
            .join(" · ")}
          <br />
          {f.addedBy}, {showDay(f.addedAt)}; judged on the machines as they are now
        </>
      }
      actions={<LinkButton to="/files">Another file</LinkButton>}
    >
      <div className="mb-2 flex flex-wrap items-center justify-between gap-3">
        <p className="text-lg font-semibold" role="status">
          {tally(f.answers)}
        </p>
        <Check label="Only machines that are free now" checked={free} onChange={setFree} />
      </div>
      {shown.length === 0 && <p className="text-dim">No machine is free now.</p>}
      <ul className="bg-leaf">
        {shown.map((m) => (
          <MachineLine
            key={m.machine.id}
            file={f}
            on={m}
            free={now(m)}
            mine={mine}
            onMine={setMine}
            onBook={() => setBook({ machine: m.machine.id, name: m.machine.name, need: { x: 0, y: 0, z: 0, hot: 0 } })}
          />
        ))}
      </ul>
      {book && <BookPanel key={book.machine} book={book} onClose={() => setBook(undefined)} onOther={setBook} />}
    </Page>
  );
}

const weight = { "does not print here": "bad", "look first": "look", repair: "cond", note: "dim" } as const;

function MachineLine({
  file,
  on,
  free,
  mine,
  onMine,
  onBook,
}: {
  file: Judged;
  on: OnMachine;
  free: boolean;
  mine?: File;
  onMine: (file?: File) => void;
  onBook: () => void;
}) {
  const mayWork = useMayWork();
  const { machine: m, verdict: v } = on;
  const repairs = v.findings.filter((x) => x.repair);
  const safe = v.answer === "prints here after a repair" && repairs.length > 0;
  return (
    <li className="flex flex-wrap items-start gap-x-4 gap-y-2 border-b border-rule px-3 py-2">
      <div className="min-w-64 flex-1">
        <p className="flex flex-wrap items-baseline gap-x-4">
          {mayWork ? (
            <Link
              to={`/machine/${m.id}`}
              className="inline-flex min-h-10 items-center text-xl font-bold underline underline-offset-4 compact:min-h-0"
            >
              {m.name}
            </Link>
          ) : (
            <b className="text-xl">{m.name}</b>
          )}
          <State tone={tones[v.answer]}>{v.answer}</State>
          <span className="text-dim">
            {m.taken ? `taken until ${m.taken.slice(11, 16)}` : m.state}
            {m.bay && `, ${m.bay}`}
          </span>
        </p>
        {on.was && <p>It was changed since: when the file came, the answer was “{on.was}”.</p>}
        {m.why && <p className="text-dim">{m.why}</p>}
        <ul>
          {v.findings.map((x) => (
            <li key={x.says + (x.line ?? 0)} className="break-words">
              <State tone={weight[x.level]}>{x.line ? `line ${x.line}` : x.level}</State> {x.says}
              {x.hazard && <b> {x.hazard}</b>}
              {x.repair && (
                <span className="block pl-6 font-mono text-sm">
                  {x.repair.was ? `${x.repair.was} → ${x.repair.becomes}` : `new line: ${x.repair.becomes}`}
                </span>
              )}
            </li>
          ))}
        </ul>
      </div>
      {safe && <Repairs file={file} on={on} mine={mine} onMine={onMine} />}
      {free && v.answer === "prints here" && (
        <Button main onClick={onBook} aria-label={`Book ${m.name}`}>
          Book
        </Button>
      )}
    </li>
  );
}

/** A repaired copy of the file, made in this browser, and the same as a patch. */
function Repairs({
  file,
  on,
  mine,
  onMine: setMine,
}: {
  file: Judged;
  on: OnMachine;
  mine?: File;
  onMine: (file?: File) => void;
}) {
  const [says, setSays] = useState("");
  const repairs = on.verdict.findings.flatMap((x) => (x.repair ? [x.repair] : [])).sort((a, b) => a.at - b.at);
  async function make(from: File) {
    if (from.size !== file.bytes) {
      setSays(`This is another file: ${file.name} has ${file.bytes} bytes.`);
      return;
    }
    setMine(from);
    held.set(file.id, from);
    setSays("Making the copy …");
    try {
      const copy = await repairedCopy(from, repairs);
      save(copy.name, copy.blob);
      setSays("");
    } catch {
      setSays("The file could not be read any more: choose it again.");
      setMine(undefined);
    }
  }
  return (
    <div className="flex flex-wrap items-center gap-2">
      {mine ? (
        <Button onClick={() => make(mine)} aria-label={`Repaired copy for ${on.machine.name}`}>
          Repaired copy
        </Button>
      ) : (
        <label className="inline-flex min-h-11 cursor-pointer items-center border-2 border-line bg-leaf px-4 font-semibold focus-within:outline-3 focus-within:outline-accent hover:border-accent">
          Choose the file for a repaired copy
          <input type="file" className="sr-only" onChange={(e) => e.target.files?.[0] && make(e.target.files[0])} />
        </label>
      )}
      <a
        className="inline-flex min-h-11 items-center underline underline-offset-4"
        href={`/api/print-files/${file.id}/patch/${on.machine.id}`}
        download
      >
        Patch
      </a>
      <p role="status">{says}</p>
    </div>
  );
}
