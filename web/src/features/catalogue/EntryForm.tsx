import type { ReactNode } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import type { useEdit } from "../../ui/draft";
import { EditConflict } from "../../ui/EditConflict";
import { Button, Fault } from "../../ui/form";
import { Panel } from "../../ui/Panel";
import { useMayWork } from "../../ui/session";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

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
  edit: Pick<ReturnType<typeof useEdit>, "version" | "changed" | "differs" | "clear" | "over">;
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
            () => unwrap(api.POST("/api/catalogue/entries", { body: { version: edit.version, ...body() } })),
            () => {
              toast("The catalogue is saved");
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
        <EditConflict edit={edit} busy={busy} />
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
                      unwrap(
                        api.POST("/api/catalogue/entries/delete", {
                          body: { section, key: entryKey, version: edit.version },
                        }),
                      ),
                    () => {
                      toast("Deleted from the catalogue");
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
