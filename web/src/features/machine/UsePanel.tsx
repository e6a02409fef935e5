import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { Button, Fault, Field, TextInput } from "../../ui/form";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

const uses = [
  ["in use", "Free to use, within its proofs"],
  ["attended only", "Somebody stays with it while it prints"],
  ["out of use", "Nobody starts it"],
] as const;

/** What a machine may be used for from now on, and why. */
export function UsePanel({ sheet, onClose }: { sheet: Schemas["Sheet"]; onClose: () => void }) {
  const [use, setUse] = useState(sheet.use.use);
  const [why, setWhy] = useState("");
  const { write, busy, fault } = useWrite();
  return (
    <Panel open onOpenChange={onClose} title={`Set availability of ${sheet.name}`}>
      <form
        className="space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          write(
            () =>
              unwrap(api.POST("/api/machines/{id}/use", { params: { path: { id: sheet.id } }, body: { use, why } })),
            () => {
              toast(`${sheet.name}: ${use}`);
              onClose();
            },
          );
        }}
      >
        <fieldset>
          <legend className="sr-only">Use</legend>
          {uses.map(([key, words]) => (
            <label key={key} className="flex min-h-12 cursor-pointer items-center gap-3">
              <input
                type="radio"
                name="use"
                className="size-6 accent-accent"
                checked={use === key}
                onChange={() => setUse(key)}
              />
              <span>
                <b>{key}</b> <span className="text-dim">{words}</span>
              </span>
            </label>
          ))}
        </fieldset>
        <Field label="Why" htmlFor="use-why">
          <TextInput id="use-why" required value={why} onChange={setWhy} />
        </Field>
        <Fault text={fault} />
        <Button type="submit" main disabled={busy}>
          Save
        </Button>
      </form>
    </Panel>
  );
}
