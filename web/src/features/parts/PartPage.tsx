import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { GradeMark } from "../../ui/badges";
import { ChangesOfThing } from "../../ui/Changes";
import { showDay } from "../../ui/dates";
import { Button } from "../../ui/form";
import { LinkButton } from "../../ui/LinkButton";
import { showMoney } from "../../ui/money";
import { Page } from "../../ui/Page";
import { PhotoStrip } from "../../ui/photos/PhotoStrip";
import { useMayWork } from "../../ui/session";
import { Loaded } from "../../ui/states";
import { EditPart, type Part } from "./EditPart";
import { MovePart } from "./MovePart";
import { ReadIt } from "./PartReading";
import { placeOf } from "./place";
import { WhereItFits } from "./WhereItFits";

export default function PartPage() {
  const id = Number(useParams().id);
  const query = useQuery({
    queryKey: keys.part(id),
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
    ["Lot", part.lot],
    ["Bought for", part.forMachineName],
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
          {part.lot && <LinkButton to={`/lot?lot=${encodeURIComponent(part.lot)}`}>All of this lot</LinkButton>}
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
