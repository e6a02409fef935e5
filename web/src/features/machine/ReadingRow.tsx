import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { GradeMark } from "../../ui/badges";
import { showDay } from "../../ui/dates";
import { TextField } from "../../ui/forms/fields";
import { SendForm } from "../../ui/forms/SendForm";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { PhotoStrip } from "../../ui/photos/PhotoStrip";
import { toast } from "../../ui/toast";
import { Who } from "../../ui/Who";

/** One reading: who, when and how, its photos, and a way to take it back. */
export function ReadingRow({ reading: r, mayWork }: { reading: Schemas["ReadingSheet"]; mayWork: boolean }) {
  const [asked, setAsked] = useState(false);
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
        {!r.setAside && mayWork && !asked && (
          <button type="button" className="min-h-10 underline underline-offset-4" onClick={() => setAsked(true)}>
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
      {asked && !r.setAside && <TakeBack id={r.id} />}
    </li>
  );
}

function TakeBack({ id }: { id: number }) {
  const form = useKeptForm(`take-back-${id}`, { why: "" });
  return (
    <SendForm
      form={form}
      className="mt-2 flex flex-wrap items-end gap-2"
      send={(body) => unwrap(api.POST("/api/readings/{id}/take-back", { params: { path: { id } }, body }))}
      onSent={() => toast("Taken back; it stays on record")}
      button="Take back"
      tone="plain"
    >
      <TextField control={form.control} name="why" label="Why is it taken back?" autoFocus />
    </SendForm>
  );
}
