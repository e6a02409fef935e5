import { useId } from "react";
import type { Control } from "react-hook-form";
import { Field } from "../form";
import { DayField, TextField } from "../forms/fields";
import type { ReadingDraft } from "./readingDraft";

/** How, when and with which picture a value was read, for those who want to say it. */
export function ReadingCircumstances({
  control,
  how,
  onPhoto,
}: {
  control: Control<ReadingDraft>;
  /** What is recorded when nothing is typed. */
  how?: string;
  onPhoto: (photo?: File) => void;
}) {
  const id = useId();
  return (
    <div className="grid gap-3 sm:grid-cols-2">
      <TextField control={control} name="how" label="How it was found" placeholder={how} />
      <DayField control={control} name="day" label="Day" hint="Today when left empty" />
      <div className="sm:col-span-2">
        <TextField control={control} name="note" label="Note" />
      </div>
      <Field label="Photo" htmlFor={id}>
        <input
          id={id}
          type="file"
          accept="image/*"
          capture="environment"
          className="min-h-11 w-full"
          onChange={(e) => onPhoto(e.target.files?.[0])}
        />
      </Field>
    </div>
  );
}
