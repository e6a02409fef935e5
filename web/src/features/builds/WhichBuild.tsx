import type { Control } from "react-hook-form";
import type { Schemas } from "../../api/client";
import { gradeWords } from "../../ui/badges";
import { DayField, SelectField } from "../../ui/forms/fields";

const grades: string[] = gradeWords.map(([grade]) => grade);

/** Which build, how surely it is known, and from when it runs. */
export type RunDraft = {
  build: string;
  grade: string;
  from: string;
  to: string;
  on: string;
  how: string;
  madeFor: boolean;
};

export const emptyRun: RunDraft = {
  build: "",
  grade: "observed",
  from: "",
  to: "",
  on: "",
  how: "",
  madeFor: true,
};

export function WhichBuild({
  control,
  builds,
}: {
  control: Control<RunDraft>;
  builds: readonly Schemas["BuildOnRecord"][];
}) {
  return (
    <>
      <SelectField
        control={control}
        name="build"
        label="Build"
        options={builds.map((b) => [String(b.id), b.name] as const)}
        empty="Not known which"
      />
      <SelectField control={control} name="grade" label="How sure" options={grades} />
      <DayField control={control} name="from" label="From" hint="Today when left empty" />
    </>
  );
}
