import type { Control } from "react-hook-form";
import { api, type Schemas, unwrap } from "../../api/client";
import { gradeWords } from "../../ui/badges";
import { Button, Fault } from "../../ui/form";
import { NumberField, SelectField, TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useEditForm } from "../../ui/forms/useEditForm";
import { Panel } from "../../ui/Panel";
import { ShelfFor } from "../../ui/parts/ShelfFor";
import { placeWords } from "../../ui/places";
import { useMayWork } from "../../ui/session";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

type Position = Schemas["PositionSheet"];
type LinkDraft = { to: string; grade: string; how: string };
type Draft = { label: string; serves: string; n: number; fedBy: LinkDraft; ridesOn: LinkDraft };

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
  const form = useEditForm<Draft>(`position-${id}-${p.key}`, structure.version, {
    label: p.label,
    serves: p.serves ?? "",
    n: p.n ?? 1,
    fedBy: draftOf(p.fedBy),
    ridesOn: draftOf(p.ridesOn),
  });
  const { control } = form;
  const others = structure.positions.filter((o) => o.key !== p.key).map((o) => [o.key, o.label] as const);
  const places = [...new Set([form.watch("serves"), ...structure.places])];
  const fields = (
    <fieldset disabled={!mayWork} className="space-y-4">
      <TextField control={control} name="label" label="Name" hint="The same on every machine that has it" required />
      <div className="grid grid-cols-[minmax(0,1fr)_9rem] gap-3">
        <SelectField
          control={control}
          name="serves"
          label="Serves"
          options={places.map((x) => [x, placeWords(x)] as const)}
        />
        <NumberField control={control} name="n" label="Number there" hint="of its kind" />
      </div>
      <LinkFields
        control={control}
        name="fedBy"
        label="Fed by"
        usual={p.fedBy ? "as usual" : (p.feeder ?? "nothing on record")}
        others={others}
        linked={form.watch("fedBy.to") !== ""}
      />
      <LinkFields
        control={control}
        name="ridesOn"
        label="Rides on"
        usual={p.ridesOn ? "as usual" : (p.carrier ?? "nothing on record")}
        others={others}
        linked={form.watch("ridesOn.to") !== ""}
      />
    </fieldset>
  );
  return (
    <Panel open onOpenChange={onClose} title={p.label}>
      <div className="mb-6 space-y-4 border-b-2 border-line pb-4">
        <ShelfFor id={id} position={p.key} />
      </div>
      {mayWork ? (
        <SendForm
          form={form}
          send={({ fedBy, ridesOn, ...said }) =>
            unwrap(
              api.PUT("/api/machines/{id}/positions/{position}", {
                params: { path: { id, position: p.key } },
                body: { ...said, version: form.version, fedBy: linkOf(fedBy), ridesOn: linkOf(ridesOn) },
              }),
            )
          }
          onSent={(_, { label }) => {
            toast(`${label} is saved`);
            onClose();
          }}
          button="Save"
        >
          {fields}
        </SendForm>
      ) : (
        fields
      )}
      {mayWork && <RemovePosition id={id} version={structure.version} position={p} onRemoved={onClose} />}
    </Panel>
  );
}

function RemovePosition({
  id,
  version,
  position: p,
  onRemoved,
}: {
  id: number;
  version: number;
  position: Position;
  onRemoved: () => void;
}) {
  const { write, busy, fault } = useWrite();
  return (
    <div className="mt-6 flex flex-wrap items-center gap-3 border-t-2 border-line pt-4">
      <Button
        danger
        disabled={busy || Boolean(p.mayLeave)}
        onClick={() =>
          write(
            () =>
              unwrap(
                api.POST("/api/machines/{id}/positions/{position}/remove", {
                  params: { path: { id, position: p.key } },
                  body: { version },
                }),
              ),
            () => {
              toast(`${p.label} is removed`);
              onRemoved();
            },
          )
        }
      >
        Remove the position
      </Button>
      {p.mayLeave && <span className="text-dim">{p.mayLeave}.</span>}
      <Fault text={fault} />
    </div>
  );
}

function draftOf(l?: Schemas["Link"]): LinkDraft {
  return { to: l?.to ?? "", grade: l?.grade ?? "observed", how: l?.how ?? "" };
}

function linkOf(d: LinkDraft): Schemas["Link"] | undefined {
  return d.to ? { to: d.to, grade: d.grade, how: d.how } : undefined;
}

function LinkFields({
  control,
  name,
  label,
  usual,
  others,
  linked,
}: {
  control: Control<Draft>;
  name: "fedBy" | "ridesOn";
  label: string;
  /** What it is when nothing is chosen. */
  usual: string;
  others: (readonly [string, string])[];
  /** Something is chosen: how sure it is, is asked. */
  linked: boolean;
}) {
  return (
    <fieldset className="grid gap-3 border-2 border-line px-4 py-3 sm:grid-cols-2">
      <legend className="px-1 font-semibold">{label}</legend>
      <SelectField
        control={control}
        name={`${name}.to`}
        label={label}
        hint="Only where it is not as usual"
        empty={`As usual: ${usual}`}
        options={others}
      />
      {linked && (
        <>
          <SelectField
            control={control}
            name={`${name}.grade`}
            label="How sure"
            options={gradeWords.map(([grade, says]) => [grade, `${grade}: ${says}`] as const)}
          />
          <div className="sm:col-span-2">
            <TextField control={control} name={`${name}.how`} label="How it was found" />
          </div>
        </>
      )}
    </fieldset>
  );
}
