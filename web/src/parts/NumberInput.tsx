import { useState } from "react";
import { TextInput } from "./form";

/** What a field for a number says of itself: anything else is named when it is sent, not taken as nothing. */
export const numeric = {
  inputMode: "decimal",
  pattern: "\\s*[\\-−+]?[0-9]+([.,][0-9]+)?\\s*",
  title: "Write a number, such as 24 or 0.5",
} as const;

const parse = (text: string) => Number(text.trim().replace(",", ".").replace("−", "-"));

/** A number as it is typed: half-written ones stay in the field until they can be read. */
export function NumberInput({
  value,
  onChange,
  ...rest
}: {
  value: number;
  onChange: (n: number) => void;
  id?: string;
  className?: string;
  "aria-label"?: string;
}) {
  const [text, setText] = useState(String(value));
  const shown = parse(text) === value || Number.isNaN(parse(text)) ? text : String(value);
  return (
    <TextInput
      {...numeric}
      {...rest}
      required
      aria-invalid={Number.isNaN(parse(text))}
      value={shown}
      onChange={(t) => {
        setText(t);
        if (!Number.isNaN(parse(t))) onChange(parse(t));
      }}
    />
  );
}
