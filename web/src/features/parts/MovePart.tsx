import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { Button, Check, Fault, Field, Select, TextInput } from "../../ui/form";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import type { Part } from "./EditPart";
import { placeOf } from "./place";

export function MovePart({ part, onClose }: { part: Part; onClose: () => void }) {
  const fleet = useQuery({ queryKey: keys.fleet(), queryFn: () => unwrap(api.GET("/api/machines")) });
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
