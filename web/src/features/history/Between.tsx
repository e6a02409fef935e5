import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { DayInput } from "../../ui/DayInput";
import { showDay } from "../../ui/dates";
import { Field } from "../../ui/form";
import { useSession } from "../../ui/session";
import { Loaded } from "../../ui/states";
import { Differences } from "./Differences";

export function Between({ id, since }: { id: number; since: string }) {
  const { today } = useSession();
  const [days, setDays] = useState<[string, string]>([since.slice(0, 10), today.slice(0, 10)]);
  const query = useQuery({
    queryKey: keys.compare(id, id, ...days),
    queryFn: () =>
      unwrap(api.GET("/api/compare", { params: { query: { a: id, b: id, dayA: days[0], dayB: days[1] } } })),
  });
  return (
    <section aria-labelledby="between">
      <h2 id="between" className="mb-2 text-2xl font-bold">
        What changed between two days
      </h2>
      <div className="no-print mb-3 grid grid-cols-2 gap-3">
        <Field label="From" htmlFor="between-a">
          <DayInput id="between-a" value={days[0]} onChange={(v) => setDays([v, days[1]])} />
        </Field>
        <Field label="To" htmlFor="between-b">
          <DayInput id="between-b" value={days[1]} onChange={(v) => setDays([days[0], v])} />
        </Field>
      </div>
      <Loaded query={query} what="Comparing">
        {(c) => <Differences comparison={c} names={[showDay(c.a.at), showDay(c.b.at)]} narrow />}
      </Loaded>
    </section>
  );
}
