import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { gradeWords } from "../../ui/badges";
import { Button, Fault, Field, Select, TextInput } from "../../ui/form";
import { NumberInput } from "../../ui/NumberInput";
import { Panel } from "../../ui/Panel";
import { ShelfFor } from "../../ui/parts/ShelfFor";
import { placeWords } from "../../ui/places";
import { useMayWork } from "../../ui/session";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

type Position = Schemas["PositionSheet"];
type LinkDraft = { to: string; grade: string; how: string };

/** Places, names and links one position, or removes it. */
export function PositionPanel({
  id,
  structure,
  position: p,
  onClose,
}: {
  id: number;
  structure: Schemas["StructureSheet"];
  position: Position;
  onClose: () => void;
}) {
  const mayWork = useMayWork();
  const [label, setLabel] = useState(p.label);
  const [serves, setServes] = useState(p.serves ?? "");
  const [n, setN] = useState(p.n ?? 1);
  const [fedBy, setFedBy] = useState(draftOf(p.fedBy));
  const [ridesOn, setRidesOn] = useState(draftOf(p.ridesOn));
  const { write, busy, fault } = useWrite();
  const where = { params: { path: { id, position: p.key } } };
  const others = structure.positions.filter((o) => o.key !== p.key).map((o) => [o.key, o.label] as const);
  const places = [...new Set([serves, ...structure.places])];
  return (
    <Panel open onOpenChange={onClose} title={p.label}>
      <div className="mb-6 space-y-4 border-b-2 border-line pb-4">
        <ShelfFor id={id} position={p.key} />
      </div>
      <form
        className="space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          const body = { version: structure.version, label, serves, n, fedBy: linkOf(fedBy), ridesOn: linkOf(ridesOn) };
          write(
            () => unwrap(api.PUT("/api/machines/{id}/positions/{position}", { ...where, body })),
            () => {
              toast(`${label} is saved`);
              onClose();
            },
          );
        }}
      >
        <fieldset disabled={!mayWork} className="space-y-4">
          <Field label="Name" htmlFor="position-name" hint="The same on every machine that has it">
            <TextInput id="position-name" required value={label} onChange={setLabel} />
          </Field>
          <div className="grid grid-cols-[minmax(0,1fr)_9rem] gap-3">
            <Field label="Serves" htmlFor="position-place">
              <Select
                id="position-place"
                value={serves}
                onChange={setServes}
                options={places.map((x) => [x, placeWords(x)] as const)}
              />
            </Field>
            <Field label="Number there" htmlFor="position-n" hint="of its kind">
              <NumberInput id="position-n" value={n} onChange={setN} />
            </Field>
          </div>
          <LinkFields
            name="Fed by"
            id="fed"
            usual={p.fedBy ? "as usual" : (p.feeder ?? "nothing on record")}
            value={fedBy}
            others={others}
            onChange={setFedBy}
          />
          <LinkFields
            name="Rides on"
            id="rides"
            usual={p.ridesOn ? "as usual" : (p.carrier ?? "nothing on record")}
            value={ridesOn}
            others={others}
            onChange={setRidesOn}
          />
        </fieldset>
        <Fault text={fault} />
        {mayWork && (
          <div className="flex flex-wrap items-center gap-3">
            <Button type="submit" main disabled={busy}>
              Save
            </Button>
            <Button
              danger
              disabled={busy || Boolean(p.mayLeave)}
              onClick={() =>
                write(
                  () =>
                    unwrap(
                      api.POST("/api/machines/{id}/positions/{position}/remove", {
                        ...where,
                        body: { version: structure.version },
                      }),
                    ),
                  () => {
                    toast(`${p.label} is removed`);
                    onClose();
                  },
                )
              }
            >
              Remove the position
            </Button>
            {p.mayLeave && <span className="text-dim">{p.mayLeave}.</span>}
          </div>
        )}
      </form>
    </Panel>
  );
}

function draftOf(l?: Schemas["Link"]): LinkDraft {
  return { to: l?.to ?? "", grade: l?.grade ?? "observed", how: l?.how ?? "" };
}

function linkOf(d: LinkDraft): Schemas["Link"] | undefined {
  return d.to ? { to: d.to, grade: d.grade, how: d.how } : undefined;
}

function LinkFields({
  name,
  id,
  usual,
  value,
  others,
  onChange,
}: {
  name: string;
  id: string;
  usual: string;
  value: LinkDraft;
  others: (readonly [string, string])[];
  onChange: (value: LinkDraft) => void;
}) {
  return (
    <fieldset className="grid gap-3 border-2 border-line px-4 py-3 sm:grid-cols-2">
      <legend className="px-1 font-semibold">{name}</legend>
      <Field label={name} htmlFor={`${id}-to`} hint="Only where it is not as usual">
        <Select
          id={`${id}-to`}
          value={value.to}
          onChange={(to) => onChange({ ...value, to })}
          empty={`As usual: ${usual}`}
          options={others}
        />
      </Field>
      {value.to && (
        <>
          <Field label="How sure" htmlFor={`${id}-grade`}>
            <Select
              id={`${id}-grade`}
              value={value.grade}
              onChange={(grade) => onChange({ ...value, grade })}
              options={gradeWords.map(([grade, says]) => [grade, `${grade}: ${says}`] as const)}
            />
          </Field>
          <div className="sm:col-span-2">
            <Field label="How it was found" htmlFor={`${id}-how`}>
              <TextInput id={`${id}-how`} value={value.how} onChange={(how) => onChange({ ...value, how })} />
            </Field>
          </div>
        </>
      )}
    </fieldset>
  );
}
