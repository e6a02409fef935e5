import { api, type Schemas, take } from "../api/client";
import { DayInput } from "../parts/DayInput";
import { showDay } from "../parts/dates";
import { useDraft } from "../parts/draft";
import { Button, Check, Fault, Field, TextInput } from "../parts/form";
import { Panel } from "../parts/Panel";
import { say } from "../parts/toast";
import { useWrite } from "../parts/write";

export function MeterPanel({ sheet, onClose }: { sheet: Schemas["Sheet"]; onClose: () => void }) {
  const [draft, setDraft, clear] = useDraft(`meter-${sheet.id}`, { hours: "", day: "", reset: false });
  const { write, busy, fault } = useWrite();
  return (
    <Panel open onOpenChange={onClose} title={`Print-hour meter of ${sheet.name}`}>
      {sheet.meter && (
        <p className="mb-4 text-dim">
          Last read {sheet.meter.hours} h on {showDay(sheet.meter.at)}.
        </p>
      )}
      <form
        className="space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          write(
            () => take(api.POST("/api/machines/{id}/meter", { params: { path: { id: sheet.id } }, body: draft })),
            () => {
              clear();
              say("Meter recorded");
              onClose();
            },
          );
        }}
      >
        <Field label="Hours, as the meter shows" htmlFor="meter-hours">
          <TextInput
            id="meter-hours"
            inputMode="decimal"
            className="font-mono text-2xl"
            value={draft.hours}
            onChange={(hours) => setDraft({ ...draft, hours })}
            required
            autoFocus
          />
        </Field>
        <Field label="Day" htmlFor="meter-day" hint="Today when left empty">
          <DayInput id="meter-day" value={draft.day} onChange={(day) => setDraft({ ...draft, day })} />
        </Field>
        <Check
          label="The meter was put back before this reading (new board or build)"
          checked={draft.reset}
          onChange={(reset) => setDraft({ ...draft, reset })}
        />
        <Fault text={fault} />
        <Button type="submit" main disabled={busy}>
          Record
        </Button>
      </form>
    </Panel>
  );
}
