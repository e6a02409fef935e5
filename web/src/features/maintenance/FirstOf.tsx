/** Said under a list that holds only the first of many. */
export function FirstOf({ shown, all }: { shown: number; all: number }) {
  if (all <= shown) return null;
  return (
    <li className="px-3 py-2 text-dim">
      {shown} of {all} machines are shown: choose a bay or a task to see others.
    </li>
  );
}
