import { useQuery } from "@tanstack/react-query";
import { useSearchParams } from "react-router";
import { api, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { DayInput } from "../../ui/DayInput";
import { Field, Select } from "../../ui/form";
import { Page } from "../../ui/Page";
import { Empty, Loaded } from "../../ui/states";
import { Differences } from "./Differences";

/** Two machines of one name, or one on two days, slot by slot. */
export default function ComparePage() {
  const [asked, setAsked] = useSearchParams();
  const fleet = useQuery({ queryKey: keys.fleet(), queryFn: () => unwrap(api.GET("/api/machines")) });
  const side = (s: "a" | "b") => ({ id: Number(asked.get(s) ?? 0), day: asked.get(s === "a" ? "dayA" : "dayB") ?? "" });
  const a = side("a");
  const b = side("b");
  const symptom = asked.get("symptom") ?? "";
  const symptoms = useQuery({
    queryKey: keys.symptoms(""),
    queryFn: () => unwrap(api.GET("/api/symptoms", { params: { query: { words: "" } } })),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const query = useQuery({
    queryKey: keys.compare(a.id, b.id, a.day, b.day, symptom),
    queryFn: () =>
      unwrap(api.GET("/api/compare", { params: { query: { a: a.id, b: b.id, dayA: a.day, dayB: b.day, symptom } } })),
    enabled: a.id > 0 && b.id > 0,
  });
  const set = (key: string, v: string) => {
    const next = new URLSearchParams(asked);
    if (v) next.set(key, v);
    else next.delete(key);
    setAsked(next, { replace: true });
  };
  const machines = fleet.data?.machines ?? [];
  const picker = (s: "a" | "b", label: string) => (
    <div className="grid grid-cols-[minmax(0,1fr)_11rem] gap-3">
      <Field label={label} htmlFor={`compare-${s}`}>
        <Select
          id={`compare-${s}`}
          value={asked.get(s) ?? ""}
          onChange={(v) => set(s, v)}
          empty="Choose a machine"
          options={machines.map((m) => [String(m.id), `${m.name} · ${m.maker || m.bay}`] as const)}
        />
      </Field>
      <Field label="as of" htmlFor={`compare-day-${s}`}>
        <DayInput
          id={`compare-day-${s}`}
          value={asked.get(s === "a" ? "dayA" : "dayB") ?? ""}
          onChange={(v) => set(s === "a" ? "dayA" : "dayB", v)}
        />
      </Field>
    </div>
  );
  return (
    <Page title="Compare two" lead="Machines of one name differ inside. Without a day, each as it is now.">
      <div className="no-print mb-6 grid gap-4 lg:grid-cols-2">
        {picker("a", "This machine")}
        {picker("b", "with this one")}
        <Field label="Only one of them shows" htmlFor="compare-symptom">
          <Select
            id="compare-symptom"
            value={symptom}
            onChange={(v) => set("symptom", v)}
            empty="No symptom: every difference in order"
            options={(symptoms.data ?? []).map((s) => [s.key, s.title] as const)}
          />
        </Field>
      </div>
      {a.id > 0 && b.id > 0 ? (
        <Loaded query={query} what="Comparing position by position">
          {(c) => <Differences comparison={c} names={[c.a.name, c.b.name]} />}
        </Loaded>
      ) : (
        <Empty title="Choose two machines." />
      )}
    </Page>
  );
}
