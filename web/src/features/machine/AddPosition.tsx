import { api, type Schemas, unwrap } from "../../api/client";
import { SelectField, TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { placeWords } from "../../ui/places";
import { toast } from "../../ui/toast";

/** Adds a position for a kind of part, at a place that such parts usually serve. */
export function AddPosition({ id, structure }: { id: number; structure: Schemas["StructureSheet"] }) {
  const form = useKeptForm(`add-position-${id}`, { kind: "", serves: "", label: "" });
  const { control } = form;
  const [kind, said] = form.watch(["kind", "serves"]);
  const chosen = structure.kinds.find((k) => k.key === kind);
  const usual = chosen?.serves ?? [];
  const first = usual[0];
  // A place of which there is one is taken by itself; an axis or a head has to be chosen.
  const only = first && !first.startsWith("head") && !first.startsWith("axis") ? first : "";
  const places = [
    ...new Set([...usual, ...structure.places.filter((p) => usual.length === 0 || usual.some((u) => alike(u, p)))]),
  ];
  const other = structure.places.filter((p) => !places.includes(p));
  return (
    <SendForm
      form={form}
      className="no-print mb-6 flex flex-wrap items-end gap-3 border-2 border-line bg-leaf px-4 py-3"
      send={({ kind, serves, label }) =>
        unwrap(
          api.POST("/api/machines/{id}/positions", {
            params: { path: { id } },
            body: { version: structure.version, kind, serves: serves || only, label },
          }),
        )
      }
      onSent={(after) => {
        const before = new Set(structure.positions.map((p) => p.key));
        const added = after.positions.find((p) => !before.has(p.key));
        toast(`${added?.label ?? "The position"} is added`);
      }}
      button="Add"
      disabled={Boolean(chosen?.only)}
    >
      <div className="w-64">
        <SelectField
          control={control}
          name="kind"
          label="Add a position for"
          required
          empty="Choose a kind of part"
          options={structure.kinds.map((k) => [k.key, k.label] as const)}
        />
      </div>
      <div className="w-48">
        <SelectField
          control={control}
          name="serves"
          label="which serves"
          required={!only}
          empty={only && !said ? placeWords(only) : "Choose a place"}
          options={[...places, ...other].map((p) => [p, placeWords(p)] as const)}
        />
      </div>
      <div className="w-64">
        <TextField control={control} name="label" label="called" placeholder="named by its kind and place" />
      </div>
      {chosen?.only && <p className="w-full text-dim">{chosen.only}.</p>}
    </SendForm>
  );
}

/** Whether two places are of one kind: two axes, two heads. */
function alike(a: string, b: string) {
  return a.split(" ")[0] === b.split(" ")[0];
}
