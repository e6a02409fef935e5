import { useQuery } from "@tanstack/react-query";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { Field, Select } from "../../ui/form";

/** Which part went in, position by position: one of the shelf, or one like the one before. */
export function NewParts({
  machine,
  kind,
  spares,
  onChange,
}: {
  machine: number;
  kind: string;
  spares: Record<string, number>;
  onChange: (spares: Record<string, number>) => void;
}) {
  const sheet = useQuery({
    queryKey: keys.sheet(machine),
    queryFn: () => unwrap(api.GET("/api/machines/{id}", { params: { path: { id: machine } } })),
  });
  const slots = sheet.data?.slots.filter((s) => s.kind === kind) ?? [];
  return slots.map((s) => (
    <Position
      key={s.key}
      machine={machine}
      slot={s}
      part={spares[s.key]}
      onPart={(part) => {
        const { [s.key]: _, ...rest } = spares;
        onChange(part ? { ...rest, [s.key]: part } : rest);
      }}
    />
  ));
}

function Position({
  machine,
  slot,
  part,
  onPart,
}: {
  machine: number;
  slot: Schemas["SlotSheet"];
  part?: number;
  onPart: (part: number | undefined) => void;
}) {
  const shelf = useQuery({
    queryKey: keys.partsFor(machine, slot.key),
    queryFn: () =>
      unwrap(
        api.GET("/api/machines/{id}/positions/{position}/parts", {
          params: { path: { id: machine, position: slot.key } },
        }),
      ),
  });
  const rows = shelf.data?.rows ?? [];
  return (
    <Field
      label={`${slot.label}: which one went in`}
      htmlFor={`new-${slot.key}`}
      hint={rows.length === 0 ? "None is on the shelf on record" : "One that is chosen leaves the shelf"}
    >
      <Select
        id={`new-${slot.key}`}
        value={part ? String(part) : ""}
        onChange={(v) => onPart(Number(v) || undefined)}
        empty="One like the one before"
        options={rows.map(
          (r) =>
            [
              String(r.part),
              [r.model || "model unknown", r.tag, r.shelf && `shelf ${r.shelf}`, r.verdict.answer]
                .filter(Boolean)
                .join(", "),
            ] as const,
        )}
      />
    </Field>
  );
}
