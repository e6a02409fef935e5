import { useState } from "react";
import { Link } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { GradeMark } from "../../ui/badges";
import { showDay } from "../../ui/dates";
import { Button, Fault, Field, TextInput } from "../../ui/form";
import { Panel } from "../../ui/Panel";
import { PhotoStrip } from "../../ui/PhotoStrip";
import { ReadingForm } from "../../ui/readings/ReadingForm";
import { useMayWork } from "../../ui/session";
import { toast } from "../../ui/toast";
import { Who } from "../../ui/Who";
import { useWrite } from "../../ui/write";
import { DisagreementView } from "./DisagreementView";

/** All readings of one trait: take another, settle a conflict, take one back,
 *  or, for a model, record that the part was changed. */
export function FactPanel({
  machineId,
  slot,
  fact,
  onClose,
}: {
  machineId: number;
  slot: Schemas["SlotSheet"];
  fact: Schemas["FactSheet"];
  onClose: () => void;
}) {
  const mayWork = useMayWork();
  return (
    <Panel open onOpenChange={onClose} title={fact.label}>
      <p className="mb-4 text-3xl font-bold">
        {fact.value}{" "}
        <span className="text-lg font-normal">{fact.grade !== "unknown" && <GradeMark grade={fact.grade} />}</span>
      </p>
      {fact.carried && <p className="mb-4 text-dim">{fact.carried}</p>}
      {fact.disagreement && <DisagreementView d={fact.disagreement} />}
      {fact.conflict && mayWork && <SettleForm machineId={machineId} fact={fact} />}
      {mayWork && (
        <section className="mb-6">
          <h3 className="mb-2 border-b border-line pb-1 text-xl font-bold">Take a reading</h3>
          <ReadingForm machineId={machineId} fact={fact} />
        </section>
      )}
      <section className="mb-6">
        <h3 className="mb-2 border-b border-line pb-1 text-xl font-bold">Readings</h3>
        {fact.readings.length === 0 && <p className="text-dim">Nobody has recorded one yet.</p>}
        <ul>
          {fact.readings.map((r) => (
            <ReadingRow key={r.id} reading={r} mayWork={mayWork} />
          ))}
        </ul>
      </section>
      {slot.part ? (
        <p className="mb-6">
          <Link className="inline-flex min-h-10 items-center underline underline-offset-4" to={`/part/${slot.part}`}>
            This part: tag, supplier, where it has been
          </Link>
        </p>
      ) : null}
      {slot.runs && (
        <p className="mb-6">
          <Link
            className="inline-flex min-h-10 items-center font-semibold underline underline-offset-4"
            to={`/machine/${machineId}/builds`}
          >
            Builds of this machine: what its boards run, and record another
          </Link>
        </p>
      )}
      {mayWork && !slot.runs && fact.key.endsWith(".model") && (
        <ExchangeForm machineId={machineId} slot={slot} onDone={onClose} />
      )}
    </Panel>
  );
}

function ReadingRow({ reading: r, mayWork }: { reading: Schemas["ReadingSheet"]; mayWork: boolean }) {
  const [why, setWhy] = useState<string>();
  const { write, busy, fault } = useWrite();
  return (
    <li className={`border-b border-rule py-2 ${r.setAside ? "text-dim" : ""}`}>
      <div className="flex flex-wrap items-baseline gap-x-4">
        <b className={`text-lg ${r.setAside ? "line-through" : ""}`}>{r.value}</b>
        <GradeMark grade={r.grade} />
        <span>
          {showDay(r.at)}, <Who name={r.by} words />
          {r.how && `, ${r.how}`}
        </span>
        {r.stands && <b>stands</b>}
        {r.inConflict && <b className="text-look">▲ in conflict</b>}
        {!r.setAside && mayWork && why === undefined && (
          <button type="button" className="min-h-10 underline underline-offset-4" onClick={() => setWhy("")}>
            Take back
          </button>
        )}
      </div>
      {r.note && <p>{r.note}</p>}
      {r.setAside && <p>{r.setAside}</p>}
      {(r.photos.length > 0 || mayWork) && (
        <details className="mt-1" open={r.photos.length > 0}>
          <summary className="min-h-10 cursor-pointer text-sm text-dim">Photos: {r.photos.length}</summary>
          <PhotoStrip
            ids={r.photos}
            of={`the reading ${r.value}`}
            postTo={mayWork ? `/api/readings/${r.id}/photos` : undefined}
          />
        </details>
      )}
      {why !== undefined && !r.setAside && (
        <form
          className="mt-2 flex flex-wrap items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            write(
              () => unwrap(api.POST("/api/readings/{id}/take-back", { params: { path: { id: r.id } }, body: { why } })),
              () => toast("Taken back; it stays on record"),
            );
          }}
        >
          <Field label="Why is it taken back?" htmlFor={`why-${r.id}`}>
            <TextInput id={`why-${r.id}`} value={why} onChange={setWhy} autoFocus />
          </Field>
          <Button type="submit" disabled={busy}>
            Take back
          </Button>
          <Fault text={fault} />
        </form>
      )}
    </li>
  );
}

function SettleForm({ machineId, fact }: { machineId: number; fact: Schemas["FactSheet"] }) {
  const [chosen, setChosen] = useState(0);
  const [why, setWhy] = useState("");
  const { write, busy, fault } = useWrite();
  const sides = fact.readings.filter((r) => r.inConflict);
  return (
    <form
      className="mb-6 border-2 border-look bg-look-wash px-4 py-3"
      onSubmit={(e) => {
        e.preventDefault();
        write(
          () =>
            unwrap(
              api.POST("/api/machines/{id}/settle", {
                params: { path: { id: machineId } },
                body: { key: fact.key, chosen, why },
              }),
            ),
          () => toast("Settled; the other readings stay on record"),
        );
      }}
    >
      <h3 className="text-xl font-bold">Equally good readings differ: settle it</h3>
      <p>Never averaged. Look again if you can; then choose what stands and say why.</p>
      <fieldset className="my-2">
        <legend className="sr-only">Which reading stands</legend>
        {sides.map((r) => (
          <label key={r.id} className="flex min-h-11 items-center gap-3">
            <input
              type="radio"
              name="chosen"
              className="size-6 accent-accent"
              checked={chosen === r.id}
              onChange={() => setChosen(r.id)}
            />
            <b>{r.value}</b> {showDay(r.at)}, <Who name={r.by} words />, {r.how}
          </label>
        ))}
      </fieldset>
      <Field label="Why" htmlFor="settle-why">
        <TextInput id="settle-why" value={why} onChange={setWhy} />
      </Field>
      <Fault text={fault} />
      <Button type="submit" main className="mt-3" disabled={busy || !chosen || !why}>
        Settle
      </Button>
    </form>
  );
}

function ExchangeForm({
  machineId,
  slot,
  onDone,
}: {
  machineId: number;
  slot: Schemas["SlotSheet"];
  onDone: () => void;
}) {
  const [model, setModel] = useState("");
  const [how, setHow] = useState("");
  const { write, busy, fault } = useWrite();
  return (
    <section>
      <h3 className="mb-2 border-b border-line pb-1 text-xl font-bold">The part was changed</h3>
      <p className="mb-2 text-dim">
        A new part starts without the old one's readings, and what depends on the old one is no longer valid. For a kit,
        open a work order instead.
      </p>
      <form
        className="grid gap-3 sm:grid-cols-2"
        onSubmit={(e) => {
          e.preventDefault();
          write(
            () =>
              unwrap(
                api.POST("/api/machines/{id}/exchange", {
                  params: { path: { id: machineId } },
                  body: { slot: slot.key, model, how },
                }),
              ),
            () => {
              toast(`${slot.label}: ${model} recorded`);
              onDone();
            },
          );
        }}
      >
        <Field label="New model" htmlFor="exchange-model" hint="none for an emptied position">
          <TextInput id="exchange-model" value={model} onChange={setModel} required />
        </Field>
        <Field label="Why" htmlFor="exchange-how">
          <TextInput id="exchange-how" value={how} onChange={setHow} />
        </Field>
        <div className="sm:col-span-2">
          <Fault text={fault} />
          <Button type="submit" disabled={busy || !model}>
            Record the change
          </Button>
        </div>
      </form>
    </section>
  );
}
