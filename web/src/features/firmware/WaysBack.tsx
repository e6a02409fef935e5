import { api, type Schemas, unwrap } from "../../api/client";
import { showDay } from "../../ui/dates";
import { Button, Fault } from "../../ui/form";
import { DayField, SelectField, TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { useMayWork } from "../../ui/session";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

type WayBack = Schemas["WayBack"];

const kinds: WayBack["kind"][] = ["memory card", "host card", "backup", "build file", "settings with secrets"];

/** Cards, backups and files by which there is a way back, each with its place and its date. */
export function WaysBack({ id, list }: { id: number; list: readonly WayBack[] }) {
  const mayWork = useMayWork();
  const { write, busy, fault } = useWrite();
  const form = useKeptForm(`way-back-${id}`, {
    kind: "backup" as WayBack["kind"],
    name: "",
    place: "",
    madeOn: new Date().toISOString().slice(0, 10),
  });
  return (
    <>
      {list.length === 0 && <p className="text-dim">None is on record: there is no way back in one step.</p>}
      <ul>
        {list.map((w) => (
          <li key={w.id} className="flex flex-wrap items-baseline gap-x-3 border-b border-rule py-1">
            <span className="flex-1">
              <b>{w.name}</b> ({w.kind}), {showDay(w.madeOn)}; lies: {w.place}
            </span>
            {mayWork && (
              <Button
                disabled={busy}
                aria-label={`Gone: ${w.name}`}
                onClick={() =>
                  write(
                    () =>
                      unwrap(
                        api.POST("/api/machines/{id}/ways-back/{back}/end", {
                          params: { path: { id, back: w.id } },
                        }),
                      ),
                    () =>
                      toast(`${w.name} is off the list`, () =>
                        write(() =>
                          unwrap(
                            api.POST("/api/machines/{id}/ways-back/{back}/keep", {
                              params: { path: { id, back: w.id } },
                            }),
                          ),
                        ),
                      ),
                  )
                }
              >
                Gone
              </Button>
            )}
          </li>
        ))}
      </ul>
      <Fault text={fault} />
      {mayWork && (
        <details className="mt-2">
          <summary className="min-h-10 cursor-pointer py-1 font-semibold">Record one</summary>
          <SendForm
            form={form}
            className="grid gap-3 sm:grid-cols-2"
            send={(body) => unwrap(api.POST("/api/machines/{id}/ways-back", { params: { path: { id } }, body }))}
            onSent={(_, typed) => toast(`${typed.name} is on record`)}
            button="Save"
          >
            <SelectField control={form.control} name="kind" label="What it is" options={kinds} />
            <TextField control={form.control} name="name" label="Name on it" required maxLength={120} />
            <TextField control={form.control} name="place" label="Where it lies" required maxLength={200} />
            <DayField control={form.control} name="madeOn" label="Made on" />
          </SendForm>
        </details>
      )}
    </>
  );
}
