import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { Button, Check } from "../../ui/form";
import { SelectField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { useGo } from "../../ui/go";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";

type Row = Schemas["VerdictRow"];

/** Opens a kit's work orders on several of the machines that it fits, to be done together. */
export function OpenBatch({ kit, rows, reasons }: { kit: string; rows: readonly Row[]; reasons: readonly string[] }) {
  const [open, setOpen] = useState(false);
  const fit = rows.filter((r) => (r.answer === "fits" || r.answer === "fits if") && !r.locked);
  if (fit.length < 2) return null;
  return (
    <>
      <Button onClick={() => setOpen(true)}>Open work on several …</Button>
      {open && <BatchPanel kit={kit} rows={fit} reasons={reasons} onClose={() => setOpen(false)} />}
    </>
  );
}

function BatchPanel({
  kit,
  rows,
  reasons,
  onClose,
}: {
  kit: string;
  rows: readonly Row[];
  reasons: readonly string[];
  onClose: () => void;
}) {
  const go = useGo();
  const form = useKeptForm(`batch-${kit}`, { reason: "" });
  const [chosen, setChosen] = useState<readonly number[]>([]);
  const nameOf = (id: number) => rows.find((r) => r.machineId === id)?.machine ?? `machine ${id}`;
  return (
    <Panel open onOpenChange={onClose} title="Open work on several machines">
      <p className="mb-3 text-dim">
        On a fleet one pilot machine comes first; when it has run for a while, the rest. Each machine gets an order of
        its own and is locked out; their steps stand side by side.
      </p>
      <SendForm
        form={form}
        send={({ reason }) => unwrap(api.POST("/api/work/batch", { body: { kit, reason, machines: [...chosen] } }))}
        onSent={(made) => {
          if (made.refused.length > 0)
            toast(`Not opened: ${made.refused.map((r) => `${nameOf(r.machineId)} (${r.why})`).join("; ")}`);
          if (made.batch) go(`/work/batch/${made.batch}`);
        }}
        button={`Open ${chosen.length} work ${chosen.length === 1 ? "order" : "orders"}`}
        disabled={chosen.length === 0 || !form.watch("reason")}
      >
        <fieldset>
          <legend className="mb-1 font-semibold">Machines that it fits</legend>
          {rows.map((r) => (
            <Check
              key={r.machineId}
              label={`${r.machine}, ${r.bay}: ${r.answer}`}
              checked={chosen.includes(r.machineId)}
              onChange={(on) => setChosen(on ? [...chosen, r.machineId] : chosen.filter((id) => id !== r.machineId))}
            />
          ))}
        </fieldset>
        <SelectField
          control={form.control}
          name="reason"
          label="Why touch them?"
          options={reasons}
          empty="Choose the reason"
        />
      </SendForm>
    </Panel>
  );
}
