import { Link } from "react-router";

const ways = [
  [
    "/import",
    "Import the register you keep now",
    "A CSV as it is: your own headings, checked row by row before anything is written.",
  ],
  [
    "/machine/several",
    "Add a few alike machines",
    "Type their names and once what they have in common; the rest is read off each.",
  ],
  ["/machine/new", "Add one machine", "A name is enough to begin with."],
] as const;

/** A shop without machines: the ways to begin. */
export function FirstSteps({ mayWork }: { mayWork: boolean }) {
  return (
    <section aria-labelledby="first-steps" className="max-w-3xl">
      <h2 id="first-steps" className="mb-3 text-xl font-bold">
        No machine is in the register yet.
      </h2>
      {!mayWork && <p>A technician puts the machines into it.</p>}
      {mayWork && (
        <ol className="bg-leaf">
          {ways.map(([to, title, what]) => (
            <li key={to} className="border-b border-rule">
              <Link to={to} className="block px-4 py-3 hover:bg-wash">
                <b className="text-lg underline underline-offset-4">{title}</b>
                <span className="block text-dim">{what}</span>
              </Link>
            </li>
          ))}
          <li className="px-4 py-3">
            <b className="text-lg">Look at the demo room first</b>
            <span className="block text-dim">
              On this computer: <code className="font-mono text-ink">make demo</code>, or{" "}
              <code className="font-mono text-ink">wardifex demo</code>. It keeps its data apart from yours.
            </span>
          </li>
        </ol>
      )}
    </section>
  );
}
