import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { Fault } from "../form";
import { SelectField } from "../forms/fields";
import { useKeptForm } from "../forms/useKeptForm";
import { Panel } from "../Panel";
import { postFile } from "../post";
import { toast } from "../toast";
import { useWrite } from "../write";
import { DangerReported } from "./DangerReported";
import { LeaveIt } from "./LeaveIt";
import { QuickSymptoms } from "./QuickSymptoms";
import { type FaultDraft, type Report, ReportForm } from "./ReportForm";
import { WhichMachine } from "./WhichMachine";

/** Reports a fault: by one tap on what is seen, or in words with a photo. */
export function ReportFault({ machine, onClose }: { machine: number; onClose: () => void }) {
  const form = useKeptForm<FaultDraft>(`fault-${machine}`, {
    machine: String(machine || ""),
    words: "",
    symptom: "",
  });
  const [danger, setDanger] = useState(false);
  const [choosing, setChoosing] = useState(!machine);
  const { write, busy, fault } = useWrite();
  const fleet = useQuery({ queryKey: keys.fleet(), queryFn: () => unwrap(api.GET("/api/machines")) });
  const chosen = form.watch("machine");
  const machines = fleet.data?.machines ?? [];
  const named = machines.find((m) => String(m.id) === chosen);
  const report = (r: Report) =>
    write(
      async () => {
        const made = await unwrap(
          api.POST("/api/machines/{id}/faults", {
            params: { path: { id: Number(chosen) } },
            body: { words: r.words, symptom: r.symptom },
          }),
        );
        if (r.photo) await postFile(`/api/faults/${made.id}/photos`, r.photo, r.photo.type || "image/jpeg");
        return made;
      },
      (made) => {
        form.forget();
        if (made.danger) return setDanger(true);
        toast("Reported. Technicians see it under Faults");
        onClose();
      },
    );
  return (
    <Panel open onOpenChange={onClose} title={named ? `A fault of ${named.name}` : "Report a fault"}>
      {danger ? (
        <DangerReported machine={named?.name ?? "The machine"} onClose={onClose} />
      ) : (
        <div className="space-y-4">
          <LeaveIt />
          {choosing && (
            <SelectField
              control={form.control}
              name="machine"
              label="Machine"
              required
              empty="Choose"
              options={machines.map((m) => [String(m.id), m.bay ? `${m.name}, ${m.bay}` : m.name] as const)}
            />
          )}
          {named && (
            <WhichMachine
              machine={named}
              onWrong={
                choosing
                  ? undefined
                  : () => {
                      form.setValue("machine", "");
                      setChoosing(true);
                    }
              }
            />
          )}
          {!form.watch("words").trim() && <QuickSymptoms disabled={busy || !chosen} onReport={report} />}
          <ReportForm form={form} disabled={busy || !chosen} onReport={report} />
          <Fault text={fault} />
        </div>
      )}
    </Panel>
  );
}
