import { useState } from "react";
import { Button } from "./form";

/** Lines to send, or a patch: to be copied or downloaded as they stand. */
export function DiffText({ text, name }: { text: string; name: string }) {
  const [copied, setCopied] = useState(false);
  return (
    <figure className="my-1 border border-line bg-leaf">
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: it scrolls, also by the keyboard */}
      <section className="max-h-72 overflow-auto px-3 py-2" tabIndex={0} aria-label={`Text of ${name}`}>
        <pre className="font-mono text-sm">
          {text.split("\n").map((line, i) => (
            <span
              // biome-ignore lint/suspicious/noArrayIndexKey: lines have no other name
              key={i}
              className={`block min-h-[1lh] ${line.startsWith("+") && !line.startsWith("+++") ? "font-bold text-good" : ""} ${line.startsWith("-") && !line.startsWith("---") ? "text-bad line-through" : ""}`}
            >
              {line}
            </span>
          ))}
        </pre>
      </section>
      <figcaption className="no-print flex flex-wrap gap-2 border-t border-line px-2 py-1">
        <Button
          onClick={async () => {
            await navigator.clipboard.writeText(text);
            setCopied(true);
          }}
        >
          {copied ? "Copied" : "Copy"}
        </Button>
        <a
          className="inline-flex min-h-11 items-center px-2 underline underline-offset-4"
          href={`data:text/plain;charset=utf-8,${encodeURIComponent(text)}`}
          download={name}
        >
          Download
        </a>
      </figcaption>
    </figure>
  );
}
