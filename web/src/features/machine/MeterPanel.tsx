import { api, type Schemas, unwrap } from "../../api/client";
import { showDay } from "../../ui/dates";
import { CheckField, DayField, TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { counterWords } from "./counterWords";

const counters = [
  ["hours", "Hours, as the meter shows", ""],
  ["filament", "Filament, m", "Or a mass: 1.2 kg is reckoned as 1.75 mm of the common material"],
  ["prints", "Prints begun", ""],
] as const;

/** Records what the meters of a machine show. */
export function MeterPanel({ sheet, onClose }: { sheet: Schemas["Sheet"]; onClose: () => void }) {
  const form = useKeptForm(`meter-${sheet.id}`, { hours: "", filament: "", prints: "", day: "", reset: false });
  const { control } = form;
  return (
    <Panel open onOpenChange={onClose} title={`Meters of ${sheet.name}`}>
      {sheet.meters.map((m) => (
        <p key={m.counter} className="mb-2 text-dim">
          {counterWords[m.counter]}: last read {m.amount} {m.unit} on {showDay(m.at)}.
        </p>
      ))}
      <SendForm
        form={form}
        send={(body) => unwrap(api.POST("/api/machines/{id}/meter", { params: { path: { id: sheet.id } }, body }))}
        onSent={() => {
          toast("Meter recorded");
          onClose();
        }}
        button="Record"
      >
        {counters.map(([name, label, hint]) => (
          <TextField
            key={name}
            control={control}
            name={name}
            label={label}
            hint={hint}
            inputMode="decimal"
            className="font-mono text-2xl"
            autoFocus={name === "hours"}
          />
        ))}
        <DayField control={control} name="day" label="Day" hint="Today when left empty" />
        <CheckField
          control={control}
          name="reset"
          label="Put back before this reading (new board or build), or another meter"
        />
      </SendForm>
    </Panel>
  );
}
