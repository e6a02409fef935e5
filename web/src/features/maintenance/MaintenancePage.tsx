import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { useDraft } from "../../ui/draft";
import { Button, Select } from "../../ui/form";
import { Page } from "../../ui/Page";
import { SubPlaces, workPages } from "../../ui/SubPlaces";
import { Empty, Loaded } from "../../ui/states";
import { DonePanel } from "./DonePanel";
import { Dates } from "./DueTables";
import type { Row } from "./MachineName";
import { ReadFirst, StandStill, StartUnknown } from "./Undated";
import { Unproven } from "./Unproven";

export default function MaintenancePage() {
  const [view, setView] = useDraft("due", { task: "", bay: "", span: "30" });
  const query = useQuery({
    queryKey: ["due", view],
    queryFn: () =>
      unwrap(
        api.GET("/api/due", {
          params: { query: { task: view.task, bay: view.bay, within: view.span ? Number(view.span) : -1 } },
        }),
      ),
    placeholderData: (before) => before,
  });
  return (
    <Page title="Maintenance">
      <SubPlaces label="Work" pages={workPages} />
      <Loaded query={query} what="Working out what is due">
        {(due) => <DueList due={due} view={view} setView={setView} />}
      </Loaded>
    </Page>
  );
}

type View = { task: string; bay: string; span: string };

function DueList({ due, view, setView }: { due: Schemas["DueList"]; view: View; setView: (view: View) => void }) {
  const [doing, setDoing] = useState<Row>();
  const { bays, rows } = due;
  const dated = rows.filter((r) => r.on);
  const of = (state: string) => rows.filter((r) => r.state === state);
  const unproven = of("not proven");
  return (
    <>
      {unproven.length > 0 && <Unproven rows={unproven} />}
      <div className="no-print mb-4 flex flex-wrap items-end gap-3">
        <Select
          aria-label="Kind of task"
          className="max-w-80"
          value={view.task}
          onChange={(task) => setView({ ...view, task })}
          options={due.tasks.map((t) => [t.key, t.title] as const)}
          empty="Every kind of task"
        />
        {bays.length > 0 && (
          <Select
            aria-label="Bay"
            className="max-w-44"
            value={view.bay}
            onChange={(bay) => setView({ ...view, bay })}
            options={bays}
            empty="Every bay"
          />
        )}
        <Select
          aria-label="How far ahead"
          className="max-w-52"
          value={view.span}
          onChange={(span) => setView({ ...view, span })}
          options={[
            ["0", "Due now"],
            ["14", "Next 14 days"],
            ["30", "Next 30 days"],
            ["90", "Next 90 days"],
          ]}
          empty="Everything"
        />
        <span className="text-dim">
          {dated.length} of {due.dated} with a date
        </span>
      </div>
      {dated.length === 0 ? (
        <Empty title="Nothing with a date comes up in this view.">
          <Button onClick={() => setView({ task: "", bay: "", span: "" })}>Show everything</Button>
        </Empty>
      ) : (
        <Dates rows={dated} onDone={setDoing} />
      )}
      <ReadFirst rows={of("read the meter")} />
      <StartUnknown rows={of("start unknown")} rounds={due.rounds} tasks={due.tasks} onDone={setDoing} />
      <StandStill rows={of("stands still")} />
      {doing && (
        <DonePanel row={doing} task={due.tasks.find((t) => t.key === doing.task)} onClose={() => setDoing(undefined)} />
      )}
    </>
  );
}
