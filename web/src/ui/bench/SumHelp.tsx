import { useQuery } from "@tanstack/react-query";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { SumForm } from "./SumForm";

/** A calculator beside what it helps with: what is known is filled in, and its result can be used. */
export function SumHelp({
  sum,
  given,
  place,
  unit,
  use,
}: {
  sum: string;
  given?: Record<string, string>;
  place: string;
  /** Of the value that is wanted: a figure in that unit can be used. */
  unit?: string;
  use?: (value: string) => void;
}) {
  const query = useQuery({ queryKey: keys.bench(), queryFn: () => unwrap(api.GET("/api/bench")), staleTime: Infinity });
  const calculator = query.data?.calculators.find((c) => c.key === sum);
  if (!calculator) return null;
  const take = use && ((f: Schemas["Figure"]) => use(String(Number(f.number.toPrecision(5)))));
  return (
    <details open className="border-2 border-line px-4 py-2">
      <summary className="min-h-10 cursor-pointer font-semibold">{calculator.title}</summary>
      <SumForm calculator={calculator} given={given} place={place} use={take && { unit, take }} />
    </details>
  );
}
