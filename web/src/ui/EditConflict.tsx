import { Button } from "./form";

/** Said where somebody else saved what is being edited: nothing is overwritten unasked. */
export function EditConflict({
  edit,
  busy,
}: {
  edit: { changed: boolean; clear: () => void; over: () => void };
  busy: boolean;
}) {
  if (!edit.changed || busy) return null;
  return (
    <div role="alert" className="border-l-4 border-look bg-look-wash px-3 py-2">
      <p className="mb-2">It was changed since you began. What you typed is here still.</p>
      <div className="flex flex-wrap gap-2">
        <Button onClick={edit.clear}>Take what is there now</Button>
        <Button onClick={edit.over}>Mine, over what is there now</Button>
      </div>
    </div>
  );
}
