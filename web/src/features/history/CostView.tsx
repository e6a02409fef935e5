import { api, type Schemas, unwrap } from "../../api/client";
import { NumberField, TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { showMoney } from "../../ui/money";
import { useMayWork } from "../../ui/session";
import { toast } from "../../ui/toast";

/** What a machine has cost so far, in money and in hours of work. */
export function CostView({ sheet }: { sheet: Schemas["Sheet"] }) {
  const mayWork = useMayWork();
  const c = sheet.cost;
  return (
    <section aria-labelledby="cost">
      <h2 id="cost" className="mb-2 text-2xl font-bold">
        What it has cost
      </h2>
      <dl className="grid grid-cols-[minmax(0,1fr)_auto] gap-x-4 bg-leaf px-3 py-2">
        <dt>The machine</dt>
        <dd className="text-right font-mono">{c.machine ? showMoney(c.machine) : "no price on record"}</dd>
        <dt>
          Parts first fitted here, {c.priced} with a price{c.unpriced > 0 && `, ${c.unpriced} without`}
          {c.movedIn > 0 && `; ${c.movedIn} moved in, counted where they came from`}
        </dt>
        <dd className="text-right font-mono">{showMoney(c.parts)}</dd>
        <dt className="border-t border-line font-bold">Together</dt>
        <dd className="border-t border-line text-right font-mono font-bold">{showMoney(c.machine + c.parts)}</dd>
        <dt>Hours of work</dt>
        <dd className="text-right font-mono">{(c.minutes / 60).toFixed(1)} h</dd>
      </dl>
      {mayWork && <AddLabour id={sheet.id} />}
    </section>
  );
}

function AddLabour({ id }: { id: number }) {
  const form = useKeptForm<{ minutes?: number; what: string }>(`labour-${id}`, { minutes: undefined, what: "" });
  return (
    <SendForm
      form={form}
      className="no-print mt-3 grid grid-cols-[7rem_minmax(0,1fr)] items-end gap-2"
      send={({ minutes, what }) =>
        unwrap(
          api.POST("/api/machines/{id}/labour", {
            params: { path: { id } },
            body: { minutes: minutes ?? 0, what },
          }),
        )
      }
      onSent={() => toast("Work recorded")}
      button="Add"
      tone="plain"
      disabled={!form.watch("minutes")}
    >
      <NumberField control={form.control} name="minutes" label="Minutes" unit="min" />
      <TextField control={form.control} name="what" label="What was done" required />
    </SendForm>
  );
}
