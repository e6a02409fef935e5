import type { ReactNode } from "react";
import { api, type Schemas, take } from "../api/client";
import { useMayWork } from "../app/session";
import type { useEdit } from "../parts/draft";
import { Button, Fault } from "../parts/form";
import { Meanwhile } from "../parts/Meanwhile";
import { Panel } from "../parts/Panel";
import { say } from "../parts/toast";
import { useWrite } from "../parts/write";

/** The frame of every catalogue editor: save, delete, and what is wrong. */
export function EntryForm({
  title,
  section,
  entryKey,
  edit,
  body,
  onClose,
  children,
}: {
  title: string;
  section: "kind" | "slot" | "model";
  entryKey?: string;
  edit: Pick<ReturnType<typeof useEdit>, "version" | "changed" | "clear" | "over">;
  body: () => Omit<Schemas["SaveEntryBody"], "version">;
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
            () => take(api.POST("/api/catalogue/entries", { body: { version: edit.version, ...body() } })),
            () => {
              say("The catalogue is saved");
              edit.clear();
              onClose();
            },
          );
        }}
      >
        <fieldset disabled={!mayWork} className="space-y-4">
          {children}
        </fieldset>
        <Fault text={fault} />
        <Meanwhile edit={edit} busy={busy} />
        {mayWork && (
          <div className="flex flex-wrap gap-2">
            <Button type="submit" main disabled={busy || edit.changed}>
              Save
            </Button>
            {entryKey && (
              <Button
                danger
                disabled={busy || edit.changed}
                onClick={() =>
                  write(
                    () =>
                      take(
                        api.POST("/api/catalogue/entries/delete", {
                          body: { section, key: entryKey, version: edit.version },
                        }),
                      ),
                    () => {
                      say("Deleted from the catalogue");
                      edit.clear();
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
