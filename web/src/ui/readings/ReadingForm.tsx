import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { SumHelp } from "../bench/SumHelp";
import { Button, Cautions, Fault } from "../form";
import { SelectField } from "../forms/fields";
import { useKeptForm } from "../forms/useKeptForm";
import { postFile } from "../post";
import { toast } from "../toast";
import { useWrite } from "../write";
import { Decoded } from "./Decoded";
import { PeekView } from "./PeekView";
import { ReadingCircumstances } from "./ReadingCircumstances";
import { emptyReading, type ReadingDraft } from "./readingDraft";
import { SensorHelp } from "./SensorHelp";
import { usePeek } from "./usePeek";
import { ValueField } from "./ValueField";

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
  fact: Schemas["FactSheet"];
  inspection?: string;
}) {
  // Where several inspections answer it, the one asked for; by itself the surest.
  const way =
    fact.ways.find((w) => w.inspection.key === inspection) ?? fact.ways.find((w) => w.inspection.key === fact.surest);
  const form = useKeptForm(`reading-${machineId ?? `part-${partId}`}-${fact.key}`, emptyReading(fact, way?.grade));
  const [more, setMore] = useState(false);
  const [photo, setPhoto] = useState<File>();
  const { write, busy, fault } = useWrite();
  const { control } = form;
  const value = form.watch("value");
  const peek = usePeek(machineId, fact.key, value);
  const use = (v: string) => form.setValue("value", v);
  async function send(draft: ReadingDraft) {
    const { differs, ...said } = draft;
    const body = { ...said, how: draft.how || way?.inspection.title || "" };
    const made = await (machineId
      ? unwrap(
          api.POST("/api/machines/{id}/readings", {
            params: { path: { id: machineId } },
            body: { ...body, key: fact.key, differs },
          }),
        )
      : unwrap(
          api.POST("/api/parts/{id}/readings", {
            params: { path: { id: partId ?? 0 } },
            body: { ...body, trait: fact.key.slice(fact.key.indexOf(".") + 1) },
          }),
        ));
    if (photo) await postFile(`/api/readings/${made.id}/photos`, photo, photo.type || "image/jpeg");
  }
  return (
    <form
      className="space-y-3"
      onSubmit={form.handleSubmit((draft) =>
        write(
          () => send(draft),
          () => {
            form.forget();
            setPhoto(undefined);
            toast(`${fact.label} recorded`);
          },
        ),
      )}
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
        <ValueField control={control} fact={fact} />
        <SelectField control={control} name="grade" label="How sure" options={fact.grades} />
      </div>
      {fact.help === "processor marking" && <Decoded text={value} choose={use} />}
      {fact.help === "heater resistance" && (
        <SumHelp sum="heater-ohms" place={`reading-${fact.key}`} takes={["watts"]} use={([w]) => use(w ?? "")} />
      )}
      {fact.help === "sensor" && <SensorHelp choose={use} />}
      {peek && <PeekView peek={peek} decoded={fact.help === "processor marking"} choose={use} />}
      {peek?.differs && (
        <SelectField
          control={control}
          name="differs"
          label={`On record is ${fact.value}`}
          hint="After a change, what depends on it is no longer valid; where only the record was wrong, it stays valid."
          options={[
            ["changed", "It was changed since"],
            ["wrong", "The record was wrong"],
          ]}
          empty="Not known: keep both, to settle later"
        />
      )}
      {more && <ReadingCircumstances control={control} how={way?.inspection.title} photo={photo} onPhoto={setPhoto} />}
      <Fault text={fault} />
      <div className="flex flex-wrap gap-2">
        <Button type="submit" main disabled={busy || !value}>
          Record the reading
        </Button>
        {!more && <Button onClick={() => setMore(true)}>Day, how, note, photo …</Button>}
      </div>
    </form>
  );
}
