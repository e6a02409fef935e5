import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { showDay } from "../../ui/dates";
import { Button, Fault, Field, TextInput } from "../../ui/form";
import { toast } from "../../ui/toast";
import { Who } from "../../ui/Who";
import { useWrite } from "../../ui/write";

/** Chooses which of equally good readings stands. */
export function SettleForm({ machineId, fact }: { machineId: number; fact: Schemas["FactSheet"] }) {
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
