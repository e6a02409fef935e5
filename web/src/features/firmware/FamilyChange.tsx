import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { State } from "../../ui/badges";
import { Field, Select } from "../../ui/form";
import { Loaded } from "../../ui/states";

const tones = { "carries over": "good", "measure again": "look", lost: "bad" } as const;
const order = ["lost", "measure again", "carries over"] as const;

/** What becomes of a machine's values, displays and features in another family. */
export function FamilyChange({ id, families }: { id: number; families: readonly string[] }) {
  const [to, setTo] = useState("");
  const query = useQuery({
    queryKey: keys.familyChange(id, to),
    enabled: !!to,
    queryFn: () =>
      unwrap(
        api.GET("/api/machines/{id}/firmware/family", {
          params: { path: { id }, query: { to: to as "compiled" | "hosted" | "scripted" } },
        }),
      ),
  });
  return (
    <>
      <div className="max-w-md">
        <Field label="What would become of it in another family?" htmlFor="family-to">
          <Select id="family-to" value={to} onChange={setTo} options={families} empty="Choose a family" />
        </Field>
      </div>
      {to && (
        <Loaded query={query} what="Working out what carries over and what is lost">
          {(list) => (
            <div className="mt-2 grid gap-6 lg:grid-cols-3">
              {order.map((fate) => {
                const of = list.filter((i) => i.fate === fate);
                return (
                  <section key={fate} aria-label={fate}>
                    <h3 className="text-lg font-bold">
                      <State tone={tones[fate]}>
                        {fate}: {of.length}
                      </State>
                    </h3>
                    <ul>
                      {of.map((i) => (
                        <li key={i.title} className="border-b border-rule py-1">
                          <b>{i.title}</b> {i.value}
                          {i.lines && i.lines.length > 0 && (
                            <pre className="overflow-x-auto font-mono text-sm">{i.lines.join("\n")}</pre>
                          )}
                          <span className="block text-dim">{i.why}</span>
                        </li>
                      ))}
                    </ul>
                  </section>
                );
              })}
            </div>
          )}
        </Loaded>
      )}
    </>
  );
}
