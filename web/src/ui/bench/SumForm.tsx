import { useQuery } from "@tanstack/react-query";
import { useDeferredValue } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { useDraft } from "../draft";
import { Fault } from "../form";
import { SumInput } from "./SumInput";
import { SumResult, type Use } from "./SumResult";

type Typed = Record<string, string>;

/** A calculator: what it asks for, and its result while one types. */
export function SumForm({
  calculator,
  given = {},
  place,
  use,
}: {
  calculator: Schemas["Calculator"];
  /** What is known already, by input. */
  given?: Typed;
  /** Under which name what is typed is kept over a reload. */
  place: string;
  use?: Use | false;
}) {
  const [typed, setTyped] = useDraft<Typed>(`bench-${place}-${calculator.key}`, {});
  const inputs = useDeferredValue(valuesOf(calculator, { ...given, ...typed }));
  const began = Object.keys(typed).length > 0 || Object.keys(given).length > 0;
  const query = useQuery({
    queryKey: keys.sum(calculator.key, inputs),
    queryFn: () =>
      unwrap(api.POST("/api/bench/{name}", { params: { path: { name: calculator.key } }, body: { inputs } })),
    enabled: began,
    placeholderData: (before) => before,
  });
  const faults = query.data?.faults ?? {};
  const shown = calculator.inputs.filter((i) => !i.when || i.when.is.includes(inputs[i.when.input] ?? ""));
  return (
    <div className="grid gap-x-8 gap-y-4 lg:grid-cols-2">
      <div className="grid content-start gap-3 sm:grid-cols-2">
        {shown.map((input) => (
          <SumInput
            key={input.key}
            input={input}
            id={`${place}-${calculator.key}-${input.key}`}
            value={typed[input.key] ?? given[input.key] ?? input.default ?? ""}
            // What was not touched yet is not complained about.
            fault={typed[input.key] !== undefined ? faults[input.key] : undefined}
            onChange={(value) => setTyped({ ...typed, [input.key]: value })}
          />
        ))}
      </div>
      <div aria-live="polite">
        {query.isError && <Fault text={query.error.message} />}
        {query.data?.result && Object.keys(faults).length === 0 ? (
          <SumResult result={query.data.result} use={use || undefined} />
        ) : (
          <p className="text-dim">{missing(shown, faults) || calculator.about}</p>
        )}
      </div>
    </div>
  );
}

function valuesOf(c: Schemas["Calculator"], typed: Typed): Typed {
  return Object.fromEntries(c.inputs.map((i) => [i.key, typed[i.key] ?? i.default ?? ""]));
}

function missing(inputs: readonly Schemas["Input"][], faults: Typed): string {
  const wanted = inputs.filter((i) => faults[i.key]).map((i) => i.label.toLowerCase());
  return wanted.length > 0 ? `Still to be typed: ${wanted.join(", ")}.` : "";
}
