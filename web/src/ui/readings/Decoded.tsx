import { useQuery } from "@tanstack/react-query";
import { useDeferredValue } from "react";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { Button } from "../form";

/** What the typed marking says, letter by letter. */
export function Decoded({ text, choose }: { text: string; choose: (code: string) => void }) {
  const typed = useDeferredValue(text.trim());
  const query = useQuery({
    queryKey: keys.marking(typed),
    queryFn: () => unwrap(api.GET("/api/bench/processor-marking", { params: { query: { text: typed } } })),
    enabled: typed !== "",
    placeholderData: (before) => before,
    staleTime: Number.POSITIVE_INFINITY,
  });
  const m = typed ? query.data : undefined;
  const cells: [string, string][] = [
    ["pins", m?.pins ? String(m.pins) : ""],
    ["flash", m?.flashKiB ? `${m.flashKiB} KiB` : ""],
    ["package", m?.package ?? ""],
    ["temperature", m?.temperature ?? ""],
  ];
  return (
    <div aria-live="polite">
      <div className="grid grid-cols-4 border-2 border-line text-center">
        {cells.map(([label, value], i) => (
          <div
            key={label}
            className={`border-line px-2 py-2 not-last:border-r-2 ${m?.position === i + 1 ? "bg-bad-wash" : ""}`}
          >
            <div className="font-mono text-3xl font-bold">{m?.code[i] ?? "·"}</div>
            <div className="min-h-6 font-semibold">{m?.position === i + 1 ? "✖ misread" : value}</div>
            <div className="text-sm text-dim">{label}</div>
          </div>
        ))}
      </div>
      {m?.problem && (
        <div className="mt-2 border-l-4 border-bad bg-bad-wash px-3 py-2">
          <p>{m.problem}</p>
          {m.lookAlikes && m.lookAlikes.length > 0 && (
            <p className="mt-1 flex flex-wrap items-center gap-2">
              Looks alike:
              {m.lookAlikes.map((code) => (
                <Button key={code} className="font-mono" onClick={() => choose(code)}>
                  {code}
                </Button>
              ))}
            </p>
          )}
        </div>
      )}
    </div>
  );
}
