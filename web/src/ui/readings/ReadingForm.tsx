import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { SumHelp } from "../bench/SumHelp";
import { DayInput } from "../DayInput";
import { useDraft } from "../draft";
import { Button, Cautions, Fault, Field, Select, TextInput } from "../form";
import { postFile } from "../post";
import { toast } from "../toast";
import { useWrite } from "../write";
import { Decoded } from "./Decoded";
import { PeekView } from "./PeekView";
import { SensorHelp } from "./SensorHelp";

type Fact = Schemas["FactSheet"];

/** Takes one reading of a trait; the processor marking is decoded while typed. */
export function ReadingForm({
  machineId,
  partId,
  fact,
  inspection,
}: {
  machineId?: number;
  /** A part on the shelf, in place of a machine. */
  partId?: number;
  fact: Fact;
  inspection?: string;
}) {
  // Where several inspections answer it, the one asked for; by itself the surest.
  const way =
    fact.ways.find((w) => w.inspection.key === inspection) ?? fact.ways.find((w) => w.inspection.key === fact.surest);
  const [draft, setDraft, clear] = useDraft(`reading-${machineId ?? `part-${partId}`}-${fact.key}`, {
    value: "",
    grade: fact.grades.find((g) => g === (way?.grade ?? "observed")) ?? fact.grades.at(-1) ?? "observed",
    how: "",
    note: "",
    day: "",
    differs: "",
  });
  const [more, setMore] = useState(false);
  const [photo, setPhoto] = useState<File>();
  const { write, busy, fault } = useWrite();
  const set = (change: Partial<typeof draft>) => setDraft({ ...draft, ...change });
  const id = `reading-${fact.key}`;
  return (
    <form
      className="space-y-3"
      onSubmit={(e) => {
        e.preventDefault();
        write(
          async () => {
            const body = {
              value: draft.value,
              grade: draft.grade as "observed",
              how: draft.how || way?.inspection.title || "",
              note: draft.note,
              day: draft.day,
            };
            const made = await (machineId
              ? unwrap(
                  api.POST("/api/machines/{id}/readings", {
                    params: { path: { id: machineId } },
                    body: { ...body, key: fact.key, differs: draft.differs as "changed" | "wrong" | "" },
                  }),
                )
              : unwrap(
                  api.POST("/api/parts/{id}/readings", {
                    params: { path: { id: partId ?? 0 } },
                    body: { ...body, trait: fact.key.slice(fact.key.indexOf(".") + 1) },
                  }),
                ));
            if (photo) await postFile(`/api/readings/${made.id}/photos`, photo, photo.type || "image/jpeg");
          },
          () => {
            clear();
            setPhoto(undefined);
            toast(`${fact.label} recorded`);
          },
        );
      }}
    >
      {way && (
        <div className="space-y-2">
          <p>
            <b>
              {way.inspection.title}, {way.inspection.minutes} min.
            </b>{" "}
            {way.inspection.how}
          </p>
          <Cautions list={way.inspection.cautions} />
        </div>
      )}
      <div className="grid gap-3 sm:grid-cols-[1fr_11rem]">
        <Field label={`${fact.label}${fact.unit ? `, ${fact.unit}` : ""}`} htmlFor={id}>
          {fact.kind === "choice" || fact.kind === "yes/no" ? (
            <Select
              id={id}
              value={draft.value}
              onChange={(value) => set({ value })}
              options={fact.kind === "choice" ? fact.choices : ["yes", "no"]}
              empty="Choose"
              required
            />
          ) : (
            <TextInput
              id={id}
              value={draft.value}
              onChange={(value) => set({ value })}
              inputMode={fact.kind === "number" ? "decimal" : "text"}
              autoComplete="off"
              spellCheck={false}
              required
              className="font-mono text-lg"
            />
          )}
        </Field>
        <Field label="How sure" htmlFor={`${id}-grade`}>
          <Select
            id={`${id}-grade`}
            value={draft.grade}
            onChange={(grade) => set({ grade: grade as "observed" })}
            options={fact.grades}
          />
        </Field>
      </div>
      {fact.help === "processor marking" && <Decoded text={draft.value} choose={(value) => set({ value })} />}
      {fact.help === "heater resistance" && (
        <SumHelp sum="heater-ohms" place={`reading-${fact.key}`} unit={fact.unit} use={(value) => set({ value })} />
      )}
      {fact.help === "sensor" && <SensorHelp choose={(value) => set({ value })} />}
      {machineId && (
        <PeekView
          machineId={machineId}
          factKey={fact.key}
          decoded={fact.help === "processor marking"}
          text={draft.value}
          choose={(value) => set({ value })}
        />
      )}
      {machineId && fact.observed && draft.value.trim() !== "" && !fact.value.startsWith(draft.value.trim()) && (
        <Field
          label={`On record is ${fact.value}`}
          htmlFor={`${id}-differs`}
          hint="After a change, what depends on it is no longer valid; where only the record was wrong, it stays valid."
        >
          <Select
            id={`${id}-differs`}
            value={draft.differs}
            onChange={(differs) => set({ differs })}
            options={[
              ["changed", "It was changed since"],
              ["wrong", "The record was wrong"],
            ]}
            empty="Not known: keep both, to settle later"
          />
        </Field>
      )}
      {more ? (
        <div className="grid gap-3 sm:grid-cols-2">
          <Field label="How it was found" htmlFor={`${id}-how`}>
            <TextInput
              id={`${id}-how`}
              value={draft.how}
              onChange={(how) => set({ how })}
              placeholder={way?.inspection.title}
            />
          </Field>
          <Field label="Day" htmlFor={`${id}-day`} hint="Today when left empty">
            <DayInput id={`${id}-day`} value={draft.day} onChange={(day) => set({ day })} />
          </Field>
          <div className="sm:col-span-2">
            <Field label="Note" htmlFor={`${id}-note`}>
              <TextInput id={`${id}-note`} value={draft.note} onChange={(note) => set({ note })} />
            </Field>
          </div>
          <Field label="Photo" htmlFor={`${id}-photo`}>
            <input
              id={`${id}-photo`}
              type="file"
              accept="image/*"
              capture="environment"
              className="min-h-11 w-full"
              onChange={(e) => setPhoto(e.target.files?.[0])}
            />
          </Field>
        </div>
      ) : null}
      <Fault text={fault} />
      <div className="flex flex-wrap gap-2">
        <Button type="submit" main disabled={busy || !draft.value}>
          Record the reading
        </Button>
        {!more && <Button onClick={() => setMore(true)}>Day, how, note, photo …</Button>}
      </div>
    </form>
  );
}
