import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { Button } from "../../ui/form";

/** What an import did, counted. */
export function Imported({ result, onAnother }: { result: Schemas["Plan"]; onAnother: () => void }) {
  return (
    <section className="border-l-4 border-good bg-good-wash px-5 py-4">
      <h2 className="text-2xl font-bold">Imported</h2>
      <p className="text-lg">
        {result.created} machines new, {result.changed} changed, {result.same} as they were, {result.leftOut} rows left
        out. Every value stands as claimed until somebody looks.
      </p>
      <p className="mt-3 flex gap-4">
        <Link className="inline-flex min-h-11 items-center font-semibold underline underline-offset-4" to="/">
          To the fleet
        </Link>
        <Button onClick={onAnother}>Another file</Button>
      </p>
    </section>
  );
}
