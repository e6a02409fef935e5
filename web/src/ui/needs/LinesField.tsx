import { useId } from "react";
import { Field, TextArea } from "../form";

/** A list as it is typed, one entry a line; blank lines are left out when it is saved. */
export function LinesField({
  label,
  hint,
  value,
  onChange,
}: {
  label: string;
  hint?: string;
  value: readonly string[] | undefined;
  onChange: (lines: string[]) => void;
}) {
  const id = useId();
  return (
    <Field label={`${label}, one a line`} htmlFor={id} hint={hint}>
      <TextArea id={id} value={(value ?? []).join("\n")} onChange={(t) => onChange(t ? t.split("\n") : [])} />
    </Field>
  );
}
