import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useSearchParams } from "react-router";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { Select } from "../../ui/form";
import { LinkButton } from "../../ui/LinkButton";
import { Page } from "../../ui/Page";
import { SubPlaces, workPages } from "../../ui/SubPlaces";
import { Loaded } from "../../ui/states";
import type { Arrangement } from "../../ui/table/column";
import { useArrangement } from "../../ui/table/useArrangement";
import { DonePanel } from "./DonePanel";
import { DueTable } from "./DueTable";
import type { Row } from "./MachineName";
import { ReadFirst, StandStill, StartUnknown } from "./Undated";
import { Unproven } from "./Unproven";

export default function MaintenancePage() {
  const [how, arrange] = useArrangement({ sort: "on", only: { span: "30" } });
  const { task = "", bay = "", span = "" } = how.only;
  const query = useQuery({
    queryKey: keys.due(task, bay, span),
    queryFn: () => unwrap(api.GET("/api/due", { params: { query: { task, bay, within: span ? Number(span) : -1 } } })),
    placeholderData: (before) => before,
  });
  return (
    <Page title="Maintenance" actions={<LinkButton to="/tasks">Tasks of this shop</LinkButton>}>
      <SubPlaces label="Work" pages={workPages} />
      <Loaded query={query} what="Working out what is due">
        {(due) => <DueList due={due} how={how} onArrange={arrange} />}
      </Loaded>
    </Page>
  );
}

function DueList({
  due,
  how,
  onArrange,
}: {
  due: Schemas["DueList"];
  how: Arrangement;
  onArrange: (to: Partial<Arrangement>) => void;
}) {
  const [asked, setAsked] = useSearchParams();
  const [doing, setDoing] = useState<Row | undefined>(() =>
    due.rows.find((r) => `${r.machineId}.${r.task}` === asked.get("done")),
  );
  const close = () => {
    setDoing(undefined);
    setAsked(
      (before) => {
        before.delete("done");
        return before;
      },
      { replace: true },
    );
  };
  const of = (state: string) => due.rows.filter((r) => r.state === state);
  const machines = (state: string) => due.undated.find((u) => u.state === state)?.machines ?? 0;
  const unproven = of("not proven");
  return (
    <>
      {unproven.length > 0 && <Unproven rows={unproven} machines={machines("not proven")} />}
      <DueTable due={due} how={how} onArrange={onArrange} onDone={setDoing}>
        <Select
          aria-label="How far ahead"
          className="max-w-52"
          value={how.only.span ?? ""}
          onChange={(span) => onArrange({ only: { ...how.only, span } })}
          options={[
            ["0", "Due now"],
            ["14", "Next 14 days"],
            ["30", "Next 30 days"],
            ["90", "Next 90 days"],
          ]}
          empty="Everything"
        />
      </DueTable>
      <ReadFirst rows={of("read the meter")} machines={machines("read the meter")} />
      <StartUnknown rows={of("start unknown")} due={due} onDone={setDoing} />
      <StandStill rows={of("stands still")} machines={machines("stands still")} />
      {doing && (
        <DonePanel
          row={doing}
          task={due.tasks.find((t) => t.key === doing.task)}
          others={due.rows.filter(
            (r) => r.task === doing.task && r.machineId !== doing.machineId && !r.locked && !r.danger,
          )}
          onClose={close}
        />
      )}
    </>
  );
}
