import { useQuery } from "@tanstack/react-query";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { showDay, showMoment } from "../../ui/dates";
import { Button, Fault, Select } from "../../ui/form";
import { Page } from "../../ui/Page";
import { SubPlaces, workPages } from "../../ui/SubPlaces";
import { useMayWork } from "../../ui/session";
import { Loaded } from "../../ui/states";
import { useInAddress } from "../../ui/table/useInAddress";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { SafetyEntry } from "./SafetyEntry";

/** How each machine stood on a day in what can hurt somebody; prints. */
export default function SafetyPage() {
  const mayWork = useMayWork();
  const [asked, ask] = useInAddress({ day: "" });
  const { write, busy, fault } = useWrite();
  const query = useQuery({
    queryKey: keys.safety(asked.day),
    queryFn: () => unwrap(api.GET("/api/safety", { params: { query: { day: asked.day } } })),
    placeholderData: (before) => before,
  });
  return (
    <Page
      title="Safety file"
      lead="Proofs, mains work, locks and open risks. It defers to local codes and licensed practice."
      actions={
        <>
          {mayWork && !asked.day && (
            <Button
              disabled={busy}
              onClick={() =>
                write(
                  () => unwrap(api.POST("/api/safety")),
                  () => toast("The safety file of today is kept; later edits do not change it"),
                )
              }
            >
              Keep today's file
            </Button>
          )}
          <Button main onClick={() => print()}>
            Print
          </Button>
        </>
      }
    >
      <SubPlaces label="Work" pages={workPages} />
      <Fault text={fault} />
      <Loaded query={query} what="Gathering the safety file">
        {(sheet) => (
          <>
            <div className="mb-3 flex flex-wrap items-center gap-4">
              <Select
                aria-label="Day"
                className="no-print max-w-72"
                value={asked.day}
                onChange={(day) => ask({ day })}
                empty="Today, as it is known now"
                options={sheet.days.map((d) => [d, `${showDay(d)}, as it was kept`] as const)}
              />
              <p>
                <b>{sheet.file.shop || "This shop"}</b>, {showDay(sheet.file.day)}
                {sheet.kept
                  ? `, as it was kept ${showMoment(sheet.file.takenAt)} by ${sheet.file.takenBy}`
                  : ", as it is known now"}
                : {sheet.file.machines.length} machines, {sheet.file.machines.filter((m) => m.risks.length > 0).length}{" "}
                with something open
              </p>
            </div>
            <div className="grid gap-x-8 gap-y-4 lg:grid-cols-2">
              {sheet.file.machines.map((m) => (
                <SafetyEntry key={m.id} entry={m} />
              ))}
            </div>
          </>
        )}
      </Loaded>
    </Page>
  );
}
