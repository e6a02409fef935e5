import { Link } from "react-router";
import { VerdictMark } from "../../ui/badges";
import type { Sheet } from "./Consequences";

// HeadsOf says for which head the verdict is, and how the kit comes out for the others.
export function HeadsOf({ sheet }: { sheet: Sheet }) {
  const { heads, head } = sheet.verdict;
  const at = (key: string) => `/ask/${key}/${sheet.machineId}`;
  if (head && heads.length === 0)
    return (
      <p className="mt-1">
        For head {head}.{" "}
        <Link
          className="inline-flex min-h-10 items-center underline underline-offset-4"
          to={at(sheet.kit.key.replace(/@\d+$/, ""))}
        >
          All heads
        </Link>
      </p>
    );
  if (heads.length < 2) return null;
  return (
    <div className="mt-2 max-w-3xl">
      <p>It can be fitted to any one head; this is for head {head}, where it fits best.</p>
      <ul className="mt-1 bg-leaf">
        {heads.map((h) => (
          <li key={h.head} className="flex flex-wrap items-baseline gap-x-3 border-b border-rule px-3 py-1">
            <Link className="inline-flex min-h-10 items-center underline underline-offset-4" to={at(h.key)}>
              Head {h.head}
            </Link>
            <VerdictMark answer={h.answer} lean={h.lean || undefined} />
            <span className="text-dim">{h.headline}</span>
          </li>
        ))}
      </ul>
    </div>
  );
}
