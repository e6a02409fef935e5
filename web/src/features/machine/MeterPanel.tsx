import { api, type Schemas, unwrap } from "../../api/client";
import { DayInput } from "../../ui/DayInput";
import { showDay } from "../../ui/dates";
import { useDraft } from "../../ui/draft";
import { Button, Check, Fault, Field, TextInput } from "../../ui/form";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

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
            () => unwrap(api.POST("/api/machines/{id}/meter", { params: { path: { id: sheet.id } }, body: draft })),
            () => {
              clear();
              toast("Meter recorded");
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
