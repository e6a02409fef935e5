import { api, type Schemas, unwrap } from "../../api/client";
import { showDay } from "../../ui/dates";
import { RadioField, TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { toast } from "../../ui/toast";
import { Who } from "../../ui/Who";

/** Chooses which of equally good readings stands. */
export function SettleForm({ machineId, fact }: { machineId: number; fact: Schemas["FactSheet"] }) {
  const form = useKeptForm(`settle-${machineId}-${fact.key}`, { chosen: "", why: "" });
  const { chosen, why } = form.watch();
  const sides = fact.readings.filter((r) => r.inConflict);
  return (
    <SendForm
      form={form}
      className="mb-6 space-y-3 border-2 border-look bg-look-wash px-4 py-3"
      send={(typed) =>
        unwrap(
          api.POST("/api/machines/{id}/settle", {
            params: { path: { id: machineId } },
            body: { key: fact.key, chosen: Number(typed.chosen), why: typed.why },
          }),
        )
      }
      onSent={() => toast("Settled; the other readings stay on record")}
      button="Settle"
      disabled={!chosen || !why}
    >
      <h3 className="text-xl font-bold">Equally good readings differ: settle it</h3>
      <p>Never averaged. Look again if you can; then choose what stands and say why.</p>
      <RadioField
        control={form.control}
        name="chosen"
        legend="Which reading stands"
        options={sides.map((r) => [
          String(r.id),
          <>
            <b>{r.value}</b> {showDay(r.at)}, <Who name={r.by} words />, {r.how}
          </>,
        ])}
      />
      <TextField control={form.control} name="why" label="Why" />
    </SendForm>
  );
}
