import { Button } from "../../ui/form";
import { toast } from "../../ui/toast";

/** Settings and commands of a step, to be typed or copied as they stand. */
export function Lines({ list }: { list: readonly string[] }) {
  const clipboard = navigator.clipboard as Clipboard | undefined; // behind TLS or on the computer itself
  return (
    <div className="my-3 border-l-4 border-line bg-wall px-4 py-2">
      <ul className="font-mono text-lg">
        {list.map((l, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: lines may come again
          <li key={i}>{l}</li>
        ))}
      </ul>
      {clipboard && (
        <Button
          className="no-print mt-2"
          onClick={() => clipboard.writeText(`${list.join("\n")}\n`).then(() => toast("Copied"))}
        >
          Copy the lines
        </Button>
      )}
    </div>
  );
}
