import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { GradeMark } from "../../ui/badges";
import { showDay } from "../../ui/dates";
import { Button, Fault, Field, TextInput } from "../../ui/form";
import { PhotoStrip } from "../../ui/PhotoStrip";
import { toast } from "../../ui/toast";
import { Who } from "../../ui/Who";
import { useWrite } from "../../ui/write";

/** One reading: who, when and how, its photos, and a way to take it back. */
export function ReadingRow({ reading: r, mayWork }: { reading: Schemas["ReadingSheet"]; mayWork: boolean }) {
  const [why, setWhy] = useState<string>();
  const { write, busy, fault } = useWrite();
  return (
    <li className={`border-b border-rule py-2 ${r.setAside ? "text-dim" : ""}`}>
      <div className="flex flex-wrap items-baseline gap-x-4">
        <b className={`text-lg ${r.setAside ? "line-through" : ""}`}>{r.value}</b>
        <GradeMark grade={r.grade} />
        <span>
          {showDay(r.at)}, <Who name={r.by} words />
          {r.how && `, ${r.how}`}
        </span>
        {r.stands && <b>stands</b>}
        {r.inConflict && <b className="text-look">▲ in conflict</b>}
        {!r.setAside && mayWork && why === undefined && (
          <button type="button" className="min-h-10 underline underline-offset-4" onClick={() => setWhy("")}>
            Take back
          </button>
        )}
      </div>
      {r.note && <p>{r.note}</p>}
      {r.setAside && <p>{r.setAside}</p>}
      {(r.photos.length > 0 || mayWork) && (
        <details className="mt-1" open={r.photos.length > 0}>
          <summary className="min-h-10 cursor-pointer text-sm text-dim">Photos: {r.photos.length}</summary>
          <PhotoStrip
            ids={r.photos}
            of={`the reading ${r.value}`}
            postTo={mayWork ? `/api/readings/${r.id}/photos` : undefined}
          />
        </details>
      )}
      {why !== undefined && !r.setAside && (
        <form
          className="mt-2 flex flex-wrap items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            write(
              () => unwrap(api.POST("/api/readings/{id}/take-back", { params: { path: { id: r.id } }, body: { why } })),
              () => toast("Taken back; it stays on record"),
            );
          }}
        >
          <Field label="Why is it taken back?" htmlFor={`why-${r.id}`}>
            <TextInput id={`why-${r.id}`} value={why} onChange={setWhy} autoFocus />
          </Field>
          <Button type="submit" disabled={busy}>
            Take back
          </Button>
          <Fault text={fault} />
        </form>
      )}
    </li>
  );
}
