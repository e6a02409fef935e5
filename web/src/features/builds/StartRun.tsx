import { api, type Schemas, unwrap } from "../../api/client";
import { CheckField, SelectField, TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import type { Runs } from "./RunsPage";
import { emptyRun, WhichBuild } from "./WhichBuild";

/** Records that a board, or a head, runs another build from a day on. */
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
  const form = useKeptForm(`start-run-${id}`, { ...emptyRun, on: runs.boards[0]?.slot ?? "" });
  const boards = [
    ...runs.boards.map((b) => [b.slot, b.model ? `${b.label}: ${b.model}` : b.label] as const),
    ...(runs.heads.length > 1 ? runs.heads.map((n) => [`head ${n}`, `Carried by head ${n}`] as const) : []),
  ];
  return (
    <Panel open onOpenChange={onClose} title="A board runs another build">
      <p className="mb-3 text-dim">
        What it ran before ends on that day, and what depends on the build is no longer valid: protection, directions,
        and every value in the stored settings. For an upgrade, open a work order instead.
      </p>
      <SendForm
        form={form}
        send={({ on, build, from, grade, how, madeFor }) => {
          const head = on.startsWith("head ") ? Number(on.slice(5)) : undefined;
          return unwrap(
            api.POST("/api/machines/{id}/runs", {
              params: { path: { id } },
              body: {
                board: head ? (runs.boards[0]?.slot ?? "") : on,
                head,
                build: Number(build) || undefined,
                from,
                grade: grade as "observed",
                how,
                madeFor,
              },
            }),
          );
        }}
        onSent={() => {
          toast("Recorded: the board runs another build");
          onClose();
        }}
        button="Save"
        disabled={!form.watch("how")}
      >
        <div className="grid gap-3 sm:grid-cols-2">
          <SelectField control={form.control} name="on" label="On" options={boards} />
          <WhichBuild control={form.control} builds={builds} />
        </div>
        <TextField
          control={form.control}
          name="how"
          label="How it is known"
          hint="Flashed by me, information screen, M115 …"
          required
        />
        <CheckField control={form.control} name="madeFor" label="It was made for this machine as it is" />
      </SendForm>
    </Panel>
  );
}
