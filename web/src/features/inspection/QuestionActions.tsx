import type { Schemas } from "../../api/client";
import { Button } from "../../ui/form";

/** What is pressed after a look, at the lower edge: photo, cannot read it, later, there is none, record. */
export function QuestionActions({
  q,
  photo,
  busy,
  empty,
  onPhoto,
  onUnreadable,
  onLater,
  onNone,
  onRecord,
}: {
  q: Schemas["AskedQuestion"];
  photo?: File;
  busy: boolean;
  /** Nothing is typed or chosen yet. */
  empty: boolean;
  onPhoto: (photo?: File) => void;
  onUnreadable: () => void;
  onLater: () => void;
  onNone: () => void;
  onRecord: () => void;
}) {
  return (
    <div className="sticky bottom-0 -mx-4 grid max-sm:bottom-18 grid-cols-3 gap-3 border-t-2 border-line bg-wall px-4 py-3">
      <label className="inline-flex min-h-16 cursor-pointer items-center justify-center border-2 border-line bg-leaf px-3 text-center font-semibold focus-within:outline-3 focus-within:outline-accent">
        {photo ? "Photo taken" : "Photo"}
        <input
          type="file"
          accept="image/*"
          capture="environment"
          className="sr-only"
          onChange={(e) => onPhoto(e.target.files?.[0])}
        />
      </label>
      <Button className="min-h-16 text-lg" disabled={busy} onClick={onUnreadable}>
        Can't read it
      </Button>
      <Button className="min-h-16 text-lg" disabled={busy} onClick={onLater}>
        Later
      </Button>
      {q.none && (
        <Button className="col-span-3 min-h-11" disabled={busy} onClick={onNone}>
          There is none: {q.slot}
        </Button>
      )}
      <Button
        main
        className={`col-span-3 min-h-20 text-3xl ${q.kind === "yes/no" ? "hidden" : ""}`}
        disabled={busy || empty}
        onClick={onRecord}
      >
        {busy ? "Recording …" : "Record, next"}
      </Button>
    </div>
  );
}
