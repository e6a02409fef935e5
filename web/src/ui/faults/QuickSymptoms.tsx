import { useQuery } from "@tanstack/react-query";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { Button } from "../form";
import type { Report } from "./ReportForm";

/** How many usual symptoms stand beside danger; the others are found by words. */
const MOST = 8;

/** What is seen, one tap each; danger first. */
export function QuickSymptoms({ disabled, onReport }: { disabled: boolean; onReport: (report: Report) => void }) {
  const query = useQuery({
    queryKey: keys.symptoms(""),
    queryFn: () => unwrap(api.GET("/api/symptoms", { params: { query: { words: "" } } })),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const all = query.data ?? [];
  const tap = (s: Schemas["Symptom"]) => onReport({ words: s.title, symptom: s.key });
  return (
    <div className="space-y-2">
      {all
        .filter((s) => s.danger)
        .map((s) => (
          <Button
            key={s.key}
            danger
            disabled={disabled}
            className="w-full text-lg"
            aria-label={s.title}
            onClick={() => tap(s)}
          >
            <span aria-hidden="true">▲</span> {s.title}
          </Button>
        ))}
      <div className="grid gap-2 sm:grid-cols-2">
        {all
          .filter((s) => !s.danger)
          .slice(0, MOST)
          .map((s) => (
            <Button key={s.key} disabled={disabled} onClick={() => tap(s)}>
              {s.title}
            </Button>
          ))}
      </div>
    </div>
  );
}
