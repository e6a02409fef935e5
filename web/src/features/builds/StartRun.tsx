import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { Button, Check, Fault, Field, Select, TextInput } from "../../ui/form";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import type { Runs } from "./RunsPage";
import { type Chosen, Which } from "./WhichBuild";

export function Start({
  id,
  runs,
  builds,
  onClose,
}: {
  id: number;
  runs: Runs;
  builds: readonly Schemas["BuildOnRecord"][];
  onClose: () => void;
}) {
  const [on, setOn] = useState(runs.boards[0]?.slot ?? "");
  const [which, setWhich] = useState<Chosen>({ build: "", grade: "observed", from: "" });
  const [how, setHow] = useState("");
  const [madeFor, setMadeFor] = useState(true);
  const { write, busy, fault } = useWrite();
  const boards = [
    ...runs.boards.map((b) => [b.slot, b.model ? `${b.label}: ${b.model}` : b.label] as const),
    ...(runs.heads.length > 1 ? runs.heads.map((n) => [`head ${n}`, `Carried by head ${n}`] as const) : []),
  ];
  const head = on.startsWith("head ") ? Number(on.slice(5)) : undefined;
  return (
    <Panel open onOpenChange={onClose} title="A board runs another build">
      <p className="mb-3 text-dim">
        What it ran before ends on that day, and what depends on the build is no longer valid: protection, directions,
        and every value in the stored settings. For an upgrade, open a work order instead.
      </p>
      <form
        className="space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          write(
            () =>
              unwrap(
                api.POST("/api/machines/{id}/runs", {
                  params: { path: { id } },
                  body: {
                    board: head ? (runs.boards[0]?.slot ?? "") : on,
                    head,
                    build: Number(which.build) || undefined,
                    from: which.from,
                    grade: which.grade as "observed",
                    how,
                    madeFor,
                  },
                }),
              ),
            () => {
              toast("Recorded: the board runs another build");
              onClose();
            },
          );
        }}
      >
        <div className="grid gap-3 sm:grid-cols-2">
          <Field label="On" htmlFor="run-on">
            <Select id="run-on" value={on} onChange={setOn} options={boards} />
          </Field>
          <Which value={which} onChange={setWhich} builds={builds} />
        </div>
        <Field label="How it is known" htmlFor="run-how" hint="Flashed by me, information screen, M115 …">
          <TextInput id="run-how" value={how} onChange={setHow} required />
        </Field>
        <Check label="It was made for this machine as it is" checked={madeFor} onChange={setMadeFor} />
        <Fault text={fault} />
        <Button type="submit" main disabled={busy || !how}>
          Save
        </Button>
      </form>
    </Panel>
  );
}
