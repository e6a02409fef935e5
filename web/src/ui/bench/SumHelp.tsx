import { useQuery } from "@tanstack/react-query";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { SumForm } from "./SumForm";

/** A calculator beside what it helps with: what is known is filled in, and its result can be used. */
export function SumHelp({
  sum,
  given,
  place,
  takes = [],
  use,
}: {
  sum: string;
  given?: Record<string, string>;
  place: string;
  /** Keys of the figures that can be used. */
  takes?: readonly string[];
  use?: (values: string[], unit: string) => void;
}) {
  const query = useQuery({ queryKey: keys.bench(), queryFn: () => unwrap(api.GET("/api/bench")), staleTime: Infinity });
  const calculator = query.data?.calculators.find((c) => c.key === sum);
  if (!calculator) return null;
  return (
    <details open className="border-2 border-line px-4 py-2">
      <summary className="min-h-10 cursor-pointer font-semibold">{calculator.title}</summary>
      <SumForm
        calculator={calculator}
        given={given}
        place={place}
        use={
          use &&
          takes.length > 0 && {
            keys: takes,
            take: (figures) =>
              use(
                figures.map((f) => String(Number(f.number.toPrecision(5)))),
                figures[0]?.unit ?? "",
              ),
          }
        }
      />
    </details>
  );
}
