import type { Schemas } from "../../api/client";

type Body = Schemas["AddReadingBody"];

/** A reading as it is typed. */
export type ReadingDraft = {
  value: string;
  grade: Body["grade"];
  how: string;
  note: string;
  day: string;
  /** What it means that it differs from an observed value on record. */
  differs: NonNullable<Body["differs"]>;
};

/** Nothing typed yet: as sure as the way of looking makes it, where this trait can be known so surely. */
export function emptyReading(fact: Schemas["FactSheet"], grade = "observed"): ReadingDraft {
  const sure = fact.grades.find((g) => g === grade) ?? fact.grades.at(-1) ?? "observed";
  return { value: "", grade: sure as Body["grade"], how: "", note: "", day: "", differs: "" };
}
