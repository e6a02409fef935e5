import type { Schemas } from "../../api/client";
import { gradeWords } from "../../ui/badges";
import { DayInput } from "../../ui/DayInput";
import { Field, Select } from "../../ui/form";

const grades: string[] = gradeWords.map(([grade]) => grade);

export type Chosen = { build: string; grade: string; from: string };

export function Which({
  value,
  onChange,
  builds,
}: {
  value: Chosen;
  onChange: (value: Chosen) => void;
  builds: readonly Schemas["BuildOnRecord"][];
}) {
  return (
    <>
      <Field label="Build" htmlFor="run-build">
        <Select
          id="run-build"
          value={value.build}
          onChange={(build) => onChange({ ...value, build })}
          options={builds.map((b) => [String(b.id), b.name] as const)}
          empty="Not known which"
        />
      </Field>
      <Field label="How sure" htmlFor="run-grade">
        <Select
          id="run-grade"
          value={value.grade}
          onChange={(grade) => onChange({ ...value, grade })}
          options={grades}
        />
      </Field>
      <Field label="From" htmlFor="run-from" hint="Today when left empty">
        <DayInput id="run-from" value={value.from} onChange={(from) => onChange({ ...value, from })} />
      </Field>
    </>
  );
}
