import { useQuery } from "@tanstack/react-query";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { CheckField, SelectField, TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import type { Part } from "./EditPart";
import { placeOf } from "./place";

type Draft = Pick<Schemas["Move"], "to" | "why"> & {
  slot: string;
  shelf: string;
  replaces: boolean;
  machine: string;
};

/** Records that a part went to a machine, the shelf or scrap. */
export function MovePart({ part, onClose }: { part: Part; onClose: () => void }) {
  const fleet = useQuery({ queryKey: keys.fleet(), queryFn: () => unwrap(api.GET("/api/machines")) });
  const at = part.places.find((p) => !p.to);
  const form = useKeptForm<Draft>(`move-${part.id}`, {
    to: placeOf(part).where === "machine" ? "shelf" : "machine",
    slot: part.slots[0] ?? "",
    shelf: part.shelf ?? "",
    why: "",
    replaces: false,
    machine: "",
  });
  const { control } = form;
  const to = form.watch("to");
  return (
    <Panel open onOpenChange={onClose} title={`Move ${part.model || "the part"}`}>
      <SendForm
        form={form}
        send={({ machine, ...move }) =>
          unwrap(
            api.POST("/api/parts/{id}/move", {
              params: { path: { id: part.id } },
              body: {
                ...move,
                machineId: Number(machine) || undefined,
                from: at ? { machineId: at.machineId, slot: at.slot } : {},
              },
            }),
          )
        }
        onSent={(p) => {
          toast(`Now ${placeOf(p).words}`);
          onClose();
        }}
        button="Record the move"
      >
        <SelectField
          control={control}
          name="to"
          label="To"
          options={[
            ["machine", "a machine"],
            ["shelf", "the shelf"],
            ["scrap", "scrap"],
          ]}
        />
        {to === "machine" && (
          <>
            <div className="grid gap-4 sm:grid-cols-2">
              <SelectField
                control={control}
                name="machine"
                label="Machine"
                required
                empty="Choose"
                options={(fleet.data?.machines ?? []).map((m) => [String(m.id), `${m.name}, ${m.bay}`] as const)}
              />
              <SelectField control={control} name="slot" label="Position" options={part.slots} />
            </div>
            <CheckField control={control} name="replaces" label="What is there now goes to the shelf" />
            <p className="text-dim">Its readings go with it. What depends on what it replaces is no longer valid.</p>
          </>
        )}
        {to === "shelf" && <TextField control={control} name="shelf" label="Shelf" />}
        <TextField control={control} name="why" label="Why" required />
      </SendForm>
    </Panel>
  );
}
