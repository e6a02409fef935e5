import type { Difference } from "./differences";
import { Button } from "./form";

/** Said where somebody else saved what is being edited, with what differs: nothing is overwritten unasked. */
export function EditConflict({
  edit,
  busy,
}: {
  edit: { changed: boolean; differs: () => Difference[]; clear: () => void; over: () => void };
  busy: boolean;
}) {
  if (!edit.changed || busy) return null;
  const differing = edit.differs();
  return (
    <div role="alert" className="border-l-4 border-look bg-look-wash px-3 py-2">
      <p className="mb-2">It was changed since you began. What you typed is here still.</p>
      {differing.length > 0 && (
        <ul className="mb-2 list-disc pl-5">
          {differing.map((d) => (
            <li key={d.name}>
              {d.name}: there now <b>{d.theirs}</b>, yours <b>{d.mine}</b>
            </li>
          ))}
        </ul>
      )}
      <div className="flex flex-wrap gap-2">
        <Button onClick={edit.clear}>Take what is there now</Button>
        <Button onClick={edit.over}>Mine, over what is there now</Button>
      </div>
    </div>
  );
}
