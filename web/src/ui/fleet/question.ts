import { useQuery } from "@tanstack/react-query";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";

export type Question = Schemas["Question"];
export type Filter = Schemas["Filter"];
export type Column = Schemas["AskableColumn"];

export const firstQuestion: Question = {
  columns: ["machine.state", "mainboard", "firmware", "probe", "extruder", "machine.next"],
  where: [],
};

/** Questions that every shop asks. */
export const usual: [string, Filter[]][] = [
  ["All machines", []],
  ["Protection not proven", [{ of: "machine.protection", test: "is", value: "not proven" }]],
  ["Work open", [{ of: "machine.order", test: "known" }]],
  ["Readings in conflict", [{ of: "machine.conflicts", test: "at least", value: "1" }]],
  ["Calibrations invalid", [{ of: "machine.void", test: "at least", value: "1" }]],
  ["Faults open", [{ of: "machine.faults", test: "at least", value: "1" }]],
  ["Not free to use", [{ of: "machine.use", test: "is not", value: "in use" }]],
];

export type TestKind = Schemas["TestKind"];

export function useAskable() {
  return useQuery({
    queryKey: keys.askable(),
    queryFn: () => unwrap(api.GET("/api/fleet/askable")),
    staleTime: 30_000,
  });
}

export function answerHref(question: Question, kind: "csv" | "json") {
  return `/api/answer.${kind}?q=${encodeURIComponent(JSON.stringify(question))}`;
}

/** A question whose filters still lack a value is not asked yet. */
export function complete(f: Filter, tests: readonly TestKind[]) {
  return Boolean(tests.find((t) => t.test === f.test)?.bare || f.value?.trim());
}
