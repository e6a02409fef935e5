import { api, type Schemas, unwrap } from "../../api/client";
import { showDay } from "../../ui/dates";
import { CheckField, DayField, TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";

/** Records what the print-hour meter of a machine shows. */
export function MeterPanel({ sheet, onClose }: { sheet: Schemas["Sheet"]; onClose: () => void }) {
  const form = useKeptForm(`meter-${sheet.id}`, { hours: "", day: "", reset: false });
  const { control } = form;
  return (
    <Panel open onOpenChange={onClose} title={`Print-hour meter of ${sheet.name}`}>
      {sheet.meter && (
        <p className="mb-4 text-dim">
          Last read {sheet.meter.hours} h on {showDay(sheet.meter.at)}.
        </p>
      )}
      <SendForm
        form={form}
        send={(body) => unwrap(api.POST("/api/machines/{id}/meter", { params: { path: { id: sheet.id } }, body }))}
        onSent={() => {
          toast("Meter recorded");
          onClose();
        }}
        button="Record"
      >
        <TextField
          control={control}
          name="hours"
          label="Hours, as the meter shows"
          inputMode="decimal"
          className="font-mono text-2xl"
          required
          autoFocus
        />
        <DayField control={control} name="day" label="Day" hint="Today when left empty" />
        <CheckField
          control={control}
          name="reset"
          label="The meter was put back before this reading (new board or build)"
        />
      </SendForm>
    </Panel>
  );
}
