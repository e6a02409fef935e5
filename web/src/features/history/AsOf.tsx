import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { GradeMark } from "../../ui/badges";
import { DayInput } from "../../ui/DayInput";
import { Field } from "../../ui/form";
import { Loaded } from "../../ui/states";

export function AsOf({ id }: { id: number }) {
  const [day, setDay] = useState("");
  const query = useQuery({
    queryKey: keys.asOf(id, day),
    queryFn: () => unwrap(api.GET("/api/machines/{id}/as-of", { params: { path: { id }, query: { day } } })),
    enabled: day !== "",
  });
  return (
    <section aria-labelledby="as-of">
      <h2 id="as-of" className="mb-2 text-2xl font-bold">
        How it was on a day
      </h2>
      <Field label="Day" htmlFor="as-of-day" hint="As the record stood at its end">
        <DayInput id="as-of-day" value={day} onChange={setDay} />
      </Field>
      {day !== "" && (
        <Loaded query={query} what="Looking back">
          {(p) => {
            const known = p.slots
              .map((s) => ({ ...s, traits: s.traits.filter((t) => t.grade !== "unknown") }))
              .filter((s) => s.traits.length > 0);
            return known.length === 0 ? (
              <p className="mt-3 text-dim">Nothing was on record yet.</p>
            ) : (
              <dl className="mt-3 bg-leaf">
                {known.map((s) => (
                  <div key={s.key} className="border-b border-rule px-3 py-1.5">
                    <dt className="font-bold">{s.label}</dt>
                    {s.traits.map((t) => (
                      <dd key={t.key} className="flex flex-wrap gap-x-3 pl-4">
                        <span className="text-dim">{t.short}</span> {t.value} <GradeMark grade={t.grade} word={false} />
                      </dd>
                    ))}
                  </div>
                ))}
              </dl>
            );
          }}
        </Loaded>
      )}
    </section>
  );
}
