import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { api, type Schemas, unwrap } from "../api/client";
import { useMayWork } from "../app/session";
import { ChangesOfThing } from "../history/Changes";
import { ReadingForm } from "../machine/ReadingForm";
import { PlacedWhy } from "../machine/ShelfFor";
import { GradeMark, VerdictMark } from "../ui/badges";
import { showDay } from "../ui/dates";
import { useEdit } from "../ui/draft";
import { EditConflict } from "../ui/EditConflict";
import { Button, Check, Fault, Field, Select, TextInput } from "../ui/form";
import { LinkButton } from "../ui/LinkButton";
import { showMoney } from "../ui/money";
import { Page } from "../ui/Page";
import { Panel } from "../ui/Panel";
import { PhotoStrip } from "../ui/PhotoStrip";
import { Loaded } from "../ui/states";
import { toast } from "../ui/toast";
import { useWrite } from "../ui/write";
import { PartFieldsForm, partDraftOf, partFieldsOf } from "./PartFieldsForm";
import { placeOf } from "./place";

type Part = Schemas["PartSheet"];

export default function PartPage() {
  const id = Number(useParams().id);
  const query = useQuery({
    queryKey: ["part", id],
    queryFn: () => unwrap(api.GET("/api/parts/{id}", { params: { path: { id } } })),
  });
  return (
    <Loaded query={query} what="Reading the part">
      {(part) => <PartView part={part} />}
    </Loaded>
  );
}

function PartView({ part }: { part: Part }) {
  const mayWork = useMayWork();
  const [open, setOpen] = useState<"edit" | "move">();
  const rows: [string, string | undefined][] = [
    ["Kind", part.kindLabel],
    ["Own tag", part.tag],
    ["Serial number", part.serial],
    ["Supplier", part.supplier],
    ["Price", showMoney(part.price)],
    ["Bought on", showDay(part.boughtOn)],
    ["Note", part.note],
  ];
  return (
    <Page
      title={part.model || `Unnamed ${part.kindLabel.toLowerCase()}`}
      lead={
        <>
          <GradeMark grade={part.grade} /> · {placeOf(part).words}
        </>
      }
      actions={
        <>
          <LinkButton to={`/labels?part=${part.id}`}>Label</LinkButton>
          {mayWork && <Button onClick={() => setOpen("edit")}>Edit</Button>}
          {mayWork && (
            <Button main onClick={() => setOpen("move")}>
              Move it
            </Button>
          )}
        </>
      }
    >
      <div className="grid gap-8 lg:grid-cols-2">
        <section aria-labelledby="what">
          <h2 id="what" className="mb-2 text-2xl font-bold">
            What it is
          </h2>
          <dl className="bg-leaf">
            {rows
              .filter(([, v]) => v)
              .map(([k, v]) => (
                <div key={k} className="grid grid-cols-[9rem_minmax(0,1fr)] border-b border-rule px-3 py-2">
                  <dt className="text-dim">{k}</dt>
                  <dd className="font-semibold">{v}</dd>
                </div>
              ))}
            {part.facts.map((f) => (
              <div key={f.key} className="grid grid-cols-[9rem_minmax(0,1fr)] border-b border-rule px-3 py-2">
                <dt className="text-dim">{f.short}</dt>
                <dd>
                  <span className={f.conflict ? "font-semibold text-look" : "font-semibold"}>{f.value}</span>{" "}
                  <GradeMark grade={f.grade} />
                  {f.readings.map((r) => (
                    <span key={r.id} className={`block text-sm text-dim ${r.setAside ? "line-through" : ""}`}>
                      {r.value}, {r.grade}, {showDay(r.at)}, {r.by}
                      {r.how && `, ${r.how}`}
                    </span>
                  ))}
                  <PhotoStrip ids={f.readings.flatMap((r) => r.photos)} of={f.short} />
                </dd>
              </div>
            ))}
          </dl>
          {mayWork && !part.scrappedAt && part.places.every((p) => p.to) && <ReadIt part={part} />}
        </section>
        <section aria-labelledby="places">
          <h2 id="places" className="mb-2 text-2xl font-bold">
            Where it has been
          </h2>
          {part.places.length === 0 && <p className="text-dim">In no machine yet.</p>}
          <ol className="bg-leaf">
            {part.scrappedAt && (
              <li className="border-b border-rule px-3 py-2">
                <b>Scrapped</b> {showDay(part.scrappedAt)}: {part.scrappedWhy}
              </li>
            )}
            {part.places.map((p) => (
              <li key={`${p.from}${p.slot}`} className="border-b border-rule px-3 py-2">
                <Link
                  to={`/machine/${p.machineId}`}
                  className="inline-flex min-h-10 items-center font-bold underline underline-offset-4 compact:min-h-0"
                >
                  {p.machine}
                </Link>
                , {p.slot}
                <span className="block text-dim">
                  {showDay(p.from)} to {p.to ? showDay(p.to) : "now"}
                  {p.why && `: ${p.why}`}
                  {p.by && `, ${p.by}`}
                  {p.workOrder && (
                    <Link to={`/work/${p.workOrder}`} className="ml-2 underline">
                      order {p.workOrder}
                    </Link>
                  )}
                </span>
              </li>
            ))}
          </ol>
        </section>
      </div>
      {!part.scrappedAt && <WhereItFits id={part.id} />}
      {open === "edit" && <EditPart part={part} onClose={() => setOpen(undefined)} />}
      {open === "move" && <MovePart part={part} onClose={() => setOpen(undefined)} />}
      <ChangesOfThing of={{ part: part.id }} />
    </Page>
  );
}

/** Takes a reading of a part that lies on the shelf. */
function ReadIt({ part }: { part: Part }) {
  const [key, setKey] = useState("");
  const facts = [...part.unknown, ...part.facts];
  const fact = facts.find((f) => f.key === key);
  return (
    <div className="mt-3 space-y-3">
      <Field label="Measure it or read it off" htmlFor="read-it">
        <Select
          id="read-it"
          value={key}
          onChange={setKey}
          empty="Choose what"
          options={facts.map((f) => [f.key, f.short] as const)}
        />
      </Field>
      {fact && <ReadingForm key={fact.key} partId={part.id} fact={fact} />}
    </div>
  );
}

/** The part judged at every position of the fleet that holds its kind. */
function WhereItFits({ id }: { id: number }) {
  const [judged, setJudged] = useState(60);
  const query = useQuery({
    queryKey: ["part-fits", id, judged],
    queryFn: () => unwrap(api.GET("/api/parts/{id}/fits", { params: { path: { id }, query: { limit: judged } } })),
    placeholderData: (before) => before,
  });
  return (
    <section aria-labelledby="where-it-fits" className="mt-8">
      <h2 id="where-it-fits" className="mb-2 text-2xl font-bold">
        Where it fits
      </h2>
      <Loaded query={query} what="Judging it on every machine">
        {({ rows, machines }) => (
          <>
            {rows.length === 0 && <p className="text-dim">No other position holds parts of its kind.</p>}
            <ul className="bg-leaf">
              {rows.map((r) => (
                <li key={`${r.machineId}${r.slot}`} className="border-b border-rule px-3 py-2">
                  <span className="flex flex-wrap items-center justify-between gap-x-4">
                    <Link
                      to={`/machine/${r.machineId}`}
                      className="inline-flex min-h-10 items-center font-bold underline underline-offset-4 compact:min-h-0"
                    >
                      {r.machine}, {r.position}
                    </Link>
                    <VerdictMark answer={r.verdict.answer} lean={r.verdict.lean || undefined} />
                  </span>
                  <PlacedWhy verdict={r.verdict} />
                </li>
              ))}
            </ul>
            {machines > judged && judged < 500 && (
              <Button className="mt-3" onClick={() => setJudged(Math.min(500, judged * 4))}>
                Judge it on further machines: {judged} of {machines} so far
              </Button>
            )}
          </>
        )}
      </Loaded>
    </section>
  );
}

function EditPart({ part, onClose }: { part: Part; onClose: () => void }) {
  const edit = useEdit(`part-${part.id}`, part.version, partDraftOf(part));
  const { write, busy, fault } = useWrite();
  return (
    <Panel
      open
      onOpenChange={() => {
        edit.clear();
        onClose();
      }}
      title={`Edit ${part.model || "the part"}`}
    >
      <form
        className="space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          write(
            () =>
              unwrap(
                api.PUT("/api/parts/{id}", {
                  params: { path: { id: part.id } },
                  body: { version: edit.version, fields: partFieldsOf(edit.value) },
                }),
              ),
            () => {
              edit.clear();
              toast("Saved");
              onClose();
            },
          );
        }}
      >
        <PartFieldsForm draft={edit.value} onChange={edit.set} />
        <Fault text={fault} />
        <EditConflict edit={edit} busy={busy} />
        <Button type="submit" main disabled={busy}>
          Save
        </Button>
      </form>
    </Panel>
  );
}

function MovePart({ part, onClose }: { part: Part; onClose: () => void }) {
  const fleet = useQuery({ queryKey: ["fleet"], queryFn: () => unwrap(api.GET("/api/machines")) });
  const here = placeOf(part).where;
  const at = part.places.find((p) => !p.to);
  const [move, setMove] = useState<Schemas["Move"]>({
    to: here === "machine" ? "shelf" : "machine",
    slot: part.slots[0] ?? "",
    shelf: part.shelf,
    why: "",
    replaces: false,
    from: at ? { machineId: at.machineId, slot: at.slot } : {},
  });
  const { write, busy, fault } = useWrite();
  return (
    <Panel open onOpenChange={onClose} title={`Move ${part.model || "the part"}`}>
      <form
        className="space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          write(
            () => unwrap(api.POST("/api/parts/{id}/move", { params: { path: { id: part.id } }, body: move })),
            (p) => {
              toast(`Now ${placeOf(p).words}`);
              onClose();
            },
          );
        }}
      >
        <Field label="To" htmlFor="move-to">
          <Select
            id="move-to"
            value={move.to}
            onChange={(to) => setMove({ ...move, to: to as "shelf" })}
            options={[
              ["machine", "a machine"],
              ["shelf", "the shelf"],
              ["scrap", "scrap"],
            ]}
          />
        </Field>
        {move.to === "machine" && (
          <>
            <div className="grid gap-4 sm:grid-cols-2">
              <Field label="Machine" htmlFor="move-machine">
                <Select
                  id="move-machine"
                  required
                  value={String(move.machineId ?? "")}
                  onChange={(v) => setMove({ ...move, machineId: Number(v) })}
                  empty="Choose"
                  options={(fleet.data?.machines ?? []).map((m) => [String(m.id), `${m.name}, ${m.bay}`] as const)}
                />
              </Field>
              <Field label="Position" htmlFor="move-slot">
                <Select
                  id="move-slot"
                  value={move.slot ?? ""}
                  onChange={(slot) => setMove({ ...move, slot })}
                  options={part.slots}
                />
              </Field>
            </div>
            <Check
              label="What is there now goes to the shelf"
              checked={move.replaces ?? false}
              onChange={(replaces) => setMove({ ...move, replaces })}
            />
            <p className="text-dim">Its readings go with it. What depends on what it replaces is no longer valid.</p>
          </>
        )}
        {move.to === "shelf" && (
          <Field label="Shelf" htmlFor="move-shelf">
            <TextInput id="move-shelf" value={move.shelf ?? ""} onChange={(shelf) => setMove({ ...move, shelf })} />
          </Field>
        )}
        <Field label="Why" htmlFor="move-why">
          <TextInput id="move-why" required value={move.why} onChange={(why) => setMove({ ...move, why })} />
        </Field>
        <Fault text={fault} />
        <Button type="submit" main disabled={busy}>
          Record the move
        </Button>
      </form>
    </Panel>
  );
}
