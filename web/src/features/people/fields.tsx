import { Field, Select, TextInput } from "../../ui/form";

export const roles = [
  ["member", "member: uses machines, reports faults"],
  ["technician", "technician: does the work, keeps the record"],
  ["lead", "lead: runs the shop"],
] as const;

export type Role = (typeof roles)[number][0];

export type PersonFieldsValue = { display: string; role: Role; skills: string };

/** What is set of a person, whether new or there already. */
export function PersonFields({
  value,
  onChange,
}: {
  value: PersonFieldsValue;
  onChange: (value: PersonFieldsValue) => void;
}) {
  return (
    <>
      <Field label="Name as shown" htmlFor="person-display">
        <TextInput
          id="person-display"
          required
          maxLength={100}
          value={value.display}
          onChange={(display) => onChange({ ...value, display })}
        />
      </Field>
      <Field label="Role" htmlFor="person-role">
        <Select
          id="person-role"
          value={value.role}
          onChange={(role) => onChange({ ...value, role: role as Role })}
          options={roles}
        />
      </Field>
      <Field label="Skills" htmlFor="person-skills" hint="With commas between: mains wiring, firmware">
        <TextInput id="person-skills" value={value.skills} onChange={(skills) => onChange({ ...value, skills })} />
      </Field>
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

export function PasswordField({
  id,
  label,
  value,
  onChange,
  present,
}: {
  id: string;
  label: string;
  value: string;
  onChange: (value: string) => void;
  present?: boolean;
}) {
  return (
    <Field label={label} htmlFor={id} hint={present ? undefined : "Ten characters or more, none that is soon guessed"}>
      <TextInput
        id={id}
        type="password"
        required
        autoComplete={present ? "current-password" : "new-password"}
        minLength={present ? undefined : 10}
        value={value}
        onChange={onChange}
      />
    </Field>
  );
}
