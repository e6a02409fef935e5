import type { Control } from "react-hook-form";
import { DayField, TextField } from "../forms/fields";
import { PhotoField } from "../photos/PhotoField";
import type { ReadingDraft } from "./readingDraft";

/** How, when and with which picture a value was read, for those who want to say it. */
export function ReadingCircumstances({
  control,
  how,
  photo,
  onPhoto,
}: {
  control: Control<ReadingDraft>;
  /** What is recorded when nothing is typed. */
  how?: string;
  photo?: File;
  onPhoto: (photo?: File) => void;
}) {
  return (
    <div className="grid gap-3 sm:grid-cols-2">
      <TextField control={control} name="how" label="How it was found" placeholder={how} />
      <DayField control={control} name="day" label="Day" hint="Today when left empty" />
      <div className="sm:col-span-2">
        <TextField control={control} name="note" label="Note" />
      </div>
      <PhotoField label="Photo" photo={photo} onPhoto={onPhoto} />
    </div>
  );
}
