import { useQuery } from "@tanstack/react-query";
import { useDeferredValue } from "react";
import { api, messageOf, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { State } from "../../ui/badges";
import { useEdit } from "../../ui/draft";
import { EditConflict } from "../../ui/EditConflict";
import { Button, Fault } from "../../ui/form";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { MotorFields } from "./MotorFields";
import { WireTable } from "./WireTable";
import { draftOf, wireOf } from "./wireDraft";

/** Writes a wire sheet; its arithmetic is done while it is typed. */
export function WireEditor({
  id,
  head,
  sheet,
  ports,
  volts,
  onDone,
}: {
  id: number;
  head: string;
  sheet?: Schemas["WireSheetView"];
  ports: readonly Schemas["Port"][];
  volts?: number;
  onDone: () => void;
}) {
  const edit = useEdit(`wire-sheet-${id}-${head}`, sheet?.version ?? 0, {
    wires: (sheet?.sheet.wires ?? []).map(draftOf),
    motors: [...(sheet?.sheet.motors ?? [])],
  });
  const { value: draft, set: setDraft, clear } = edit;
  const { write, busy, fault } = useWrite();
  const loom: Schemas["Loom"] = { wires: draft.wires.map(wireOf), motors: draft.motors };
  const deferred = useDeferredValue(JSON.stringify(loom));
  const judged = useQuery({
    queryKey: keys.checkWires(deferred),
    queryFn: () => unwrap(api.POST("/api/bench/wires", { body: JSON.parse(deferred) })),
    placeholderData: (before) => before,
    retry: false,
  });
  const headerPins = ports.find((p) => p.pins?.length === 4)?.pins?.join(" ");
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        write(
          () =>
            unwrap(
              api.PUT("/api/machines/{id}/wires", {
                params: { path: { id } },
                body: { head, version: edit.version, sheet: loom },
              }),
            ),
          () => {
            clear();
            toast("Wire sheet saved");
            onDone();
          },
        );
      }}
    >
      <WireTable wires={draft.wires} ports={ports} volts={volts} onChange={(wires) => setDraft({ ...draft, wires })} />
      {judged.isError && <Fault text={messageOf(judged.error)} />}
      <ul className="mt-4 space-y-1">
        {judged.data?.findings.map((f) => (
          <li key={`${f.wire}${f.sentence}`}>
            Line {f.wire + 1}: <State tone={f.bad ? "bad" : f.arithmetic ? "good" : "look"}>{f.sentence}</State>
          </li>
        ))}
      </ul>
      <MotorFields
        motors={draft.motors}
        judged={judged.data?.motorsJudged}
        headerPins={headerPins}
        onChange={(motors) => setDraft({ ...draft, motors })}
      />
      <Fault text={fault} />
      <EditConflict edit={edit} busy={busy} />
      <div className="mt-4 flex gap-2">
        <Button type="submit" main disabled={busy}>
          Save the wire sheet
        </Button>
        <Button
          onClick={() => {
            clear();
            onDone();
          }}
        >
          Cancel
        </Button>
      </div>
    </form>
  );
}
