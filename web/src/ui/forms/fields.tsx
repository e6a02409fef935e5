import { type ComponentProps, type ReactNode, useId } from "react";
import { type Control, type FieldPathByValue, type FieldValues, useController } from "react-hook-form";
import { DayInput } from "../DayInput";
import { Check, Field, Select, TextArea, TextInput } from "../form";
import { OptionalNumber } from "../NumberInput";

type Of<T extends FieldValues> = {
  control: Control<T>;
  name: FieldPathByValue<T, string | undefined>;
  label: ReactNode;
  hint?: ReactNode;
};

/** A line of text of a form. */
export function TextField<T extends FieldValues>({
  control,
  name,
  label,
  hint,
  ...rest
}: Of<T> & Omit<ComponentProps<typeof TextInput>, "value" | "onChange" | "name">) {
  const id = useId();
  const { field } = useController({ control, name });
  return (
    <Field label={label} htmlFor={id} hint={hint}>
      <TextInput id={id} {...rest} value={field.value ?? ""} onChange={field.onChange} onBlur={field.onBlur} />
    </Field>
  );
}

/** Several lines of text of a form. */
export function AreaField<T extends FieldValues>({
  control,
  name,
  label,
  hint,
  ...rest
}: Of<T> & Omit<ComponentProps<typeof TextArea>, "value" | "onChange" | "name">) {
  const id = useId();
  const { field } = useController({ control, name });
  return (
    <Field label={label} htmlFor={id} hint={hint}>
      <TextArea id={id} {...rest} value={field.value ?? ""} onChange={field.onChange} onBlur={field.onBlur} />
    </Field>
  );
}

/** One of several values of a form. */
export function SelectField<T extends FieldValues>({
  control,
  name,
  label,
  hint,
  ...rest
}: Of<T> & Omit<ComponentProps<typeof Select>, "value" | "onChange" | "name">) {
  const id = useId();
  const { field } = useController({ control, name });
  return (
    <Field label={label} htmlFor={id} hint={hint}>
      <Select id={id} {...rest} value={field.value ?? ""} onChange={field.onChange} onBlur={field.onBlur} />
    </Field>
  );
}

/** A day of a form, ISO 8601. */
export function DayField<T extends FieldValues>({ control, name, label, hint }: Of<T>) {
  const id = useId();
  const { field } = useController({ control, name });
  return (
    <Field label={label} htmlFor={id} hint={hint}>
      <DayInput id={id} value={field.value ?? ""} onChange={field.onChange} />
    </Field>
  );
}

/** One of a few values of a form, all of them in sight. */
export function RadioField<T extends FieldValues>({
  control,
  name,
  legend,
  options,
}: {
  control: Control<T>;
  name: FieldPathByValue<T, string | undefined>;
  /** Read out, not shown. */
  legend: string;
  options: readonly (readonly [string, ReactNode])[];
}) {
  const { field } = useController({ control, name });
  return (
    <fieldset>
      <legend className="sr-only">{legend}</legend>
      {options.map(([value, label]) => (
        <label key={value} className="flex min-h-11 cursor-pointer items-center gap-3">
          <input
            type="radio"
            name={name}
            className="size-6 shrink-0 accent-accent"
            checked={field.value === value}
            onChange={() => field.onChange(value)}
          />
          <span>{label}</span>
        </label>
      ))}
    </fieldset>
  );
}

/** A number of a form that may be left out. */
export function NumberField<T extends FieldValues>({
  control,
  name,
  label,
  hint,
  unit,
}: {
  control: Control<T>;
  name: FieldPathByValue<T, number | undefined>;
  label: ReactNode;
  hint?: ReactNode;
  unit?: string;
}) {
  const id = useId();
  const { field } = useController({ control, name });
  return (
    <Field label={label} htmlFor={id} hint={hint}>
      <OptionalNumber id={id} unit={unit} value={field.value} onChange={field.onChange} />
    </Field>
  );
}

/** Yes or no of a form. */
export function CheckField<T extends FieldValues>({
  control,
  name,
  label,
}: {
  control: Control<T>;
  name: FieldPathByValue<T, boolean>;
  label: ReactNode;
}) {
  const { field } = useController({ control, name });
  return <Check label={label} checked={field.value} onChange={field.onChange} />;
}
