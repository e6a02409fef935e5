import type { Control, FieldPathByValue, FieldValues } from "react-hook-form";
import { SelectField, TextField } from "../../ui/forms/fields";

export const roles = [
  ["member", "member: uses machines, reports faults"],
  ["technician", "technician: does the work, keeps the record"],
  ["lead", "lead: runs the shop"],
] as const;

export type Role = (typeof roles)[number][0];

/** What is set of a person, as it is typed. */
export type PersonDraft = { display: string; role: Role; skills: string };

type Of<T extends FieldValues> = FieldPathByValue<T, string | undefined>;

/** What is set of a person, whether new or there already. */
export function PersonFields<T extends PersonDraft & FieldValues>({ control }: { control: Control<T> }) {
  return (
    <>
      <TextField control={control} name={"display" as Of<T>} label="Name as shown" required maxLength={100} />
      <SelectField control={control} name={"role" as Of<T>} label="Role" options={roles} />
      <TextField
        control={control}
        name={"skills" as Of<T>}
        label="Skills"
        hint="With commas between: mains wiring, firmware"
      />
    </>
  );
}

/** The skills as they are sent, from what was typed. */
export function skillsOf(text: string): string[] {
  return text
    .split(",")
    .map((s) => s.trim())
    .filter(Boolean);
}

/** A password: the present one, or a new one with what is asked of it. */
export function PasswordField<T extends FieldValues>({
  control,
  name,
  label,
  present,
}: {
  control: Control<T>;
  name: Of<T>;
  label: string;
  present?: boolean;
}) {
  return (
    <TextField
      control={control}
      name={name}
      label={label}
      hint={present ? undefined : "Ten characters or more, none that is soon guessed"}
      type="password"
      required
      autoComplete={present ? "current-password" : "new-password"}
      minLength={present ? undefined : 10}
    />
  );
}
