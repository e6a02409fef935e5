import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { Button, Fault, Field, TextInput } from "../../ui/form";
import { showMoney } from "../../ui/money";
import { useMayWork } from "../../ui/session";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

export function CostView({ sheet }: { sheet: Schemas["Sheet"] }) {
  const mayWork = useMayWork();
  const c = sheet.cost;
  const [minutes, setMinutes] = useState("");
  const [what, setWhat] = useState("");
  const { write, busy, fault } = useWrite();
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
      {mayWork && (
        <form
          className="no-print mt-3 grid grid-cols-[7rem_minmax(0,1fr)_auto] items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            write(
              () =>
                unwrap(
                  api.POST("/api/machines/{id}/labour", {
                    params: { path: { id: sheet.id } },
                    body: { minutes: Number(minutes), what },
                  }),
                ),
              () => {
                setMinutes("");
                setWhat("");
                toast("Work recorded");
              },
            );
          }}
        >
          <Field label="Minutes" htmlFor="labour-minutes">
            <TextInput
              id="labour-minutes"
              inputMode="numeric"
              pattern="[0-9]+"
              value={minutes}
              onChange={setMinutes}
              required
            />
          </Field>
          <Field label="What was done" htmlFor="labour-what">
            <TextInput id="labour-what" value={what} onChange={setWhat} required />
          </Field>
          <Button type="submit" disabled={busy}>
            Add
          </Button>
          <div className="col-span-3">
            <Fault text={fault} />
          </div>
        </form>
      )}
    </section>
  );
}
