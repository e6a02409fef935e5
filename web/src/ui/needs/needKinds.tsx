import type { Schemas } from "../../api/client";
import { blankFurther } from "./FurtherEditor";

export type Need = Schemas["Requirement"];

export type Test = Schemas["Test"];

export const groupWords = { all: "all of these", any: "at least one of these", none: "none of these" } as const;

export type Group = keyof typeof groupWords;

export function groupOf(n: Need): Group | undefined {
  return (["all", "any", "none"] as const).find((g) => n[g] !== undefined);
}

export type Kind = "fact" | "parts" | "sum" | "kit" | "further" | "group";

export const blankOf: Record<Kind, Need> = {
  fact: { label: "", test: { slot: "mainboard", trait: "model", op: "present", values: [], least: "observed" } },
  parts: {
    label: "",
    test: { of: { kind: "probe", every: false }, trait: "model", op: "present", values: [], least: "marked" },
  },
  sum: { label: "", formula: { text: "", least: "observed" } },
  kit: { label: "", kit: { key: "", slot: "", model: "" } },
  further: { label: "", further: blankFurther },
  group: { label: "", any: [] },
};

export const addWords: Record<Kind, string> = {
  fact: "Add a fact",
  parts: "Add a fact of parts of a kind",
  sum: "Add a sum",
  kit: "Add another kit",
  further: "Add an additional change",
  group: "Add a group",
};
