import type { ReactNode } from "react";
import { api, type Schemas, take } from "../api/client";
import { useMayWork } from "../app/session";
import { Button, Fault } from "../parts/form";
import { Panel } from "../parts/Panel";
import { say } from "../parts/toast";
import { useWrite } from "../parts/write";

/** The frame of every catalogue editor: save, delete, and what is wrong. */
export function EntryForm({
  title,
  section,
  entryKey,
  version,
  body,
  onDone,
  onClose,
  children,
}: {
  title: string;
  section: "kind" | "slot" | "model";
  entryKey?: string;
  version: number;
  body: () => Omit<Schemas["SaveEntryBody"], "version">;
  onDone: () => void;
  onClose: () => void;
  children: ReactNode;
}) {
  const mayWork = useMayWork();
  const { write, busy, fault } = useWrite();
  return (
    <Panel open onOpenChange={onClose} title={title}>
      <form
        className="space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          write(
            () => take(api.POST("/api/catalogue/entries", { body: { version, ...body() } })),
            () => {
              say("The catalogue is saved");
              onDone();
              onClose();
            },
          );
        }}
      >
        <fieldset disabled={!mayWork} className="space-y-4">
          {children}
        </fieldset>
        <Fault text={fault} />
        {mayWork && (
          <div className="flex flex-wrap gap-2">
            <Button type="submit" main disabled={busy}>
              Save
            </Button>
            {entryKey && (
              <Button
                danger
                disabled={busy}
                onClick={() =>
                  write(
                    () =>
                      take(api.POST("/api/catalogue/entries/delete", { body: { section, key: entryKey, version } })),
                    () => {
                      say("Deleted from the catalogue");
                      onDone();
                      onClose();
                    },
                  )
                }
              >
                Delete
              </Button>
            )}
          </div>
        )}
      </form>
    </Panel>
  );
}
