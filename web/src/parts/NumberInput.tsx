import { useState } from "react";
import { TextInput } from "./form";

const parse = (text: string) => Number(text.trim().replace(",", "."));

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
      {...rest}
      inputMode="decimal"
      aria-invalid={Number.isNaN(parse(text))}
      value={shown}
      onChange={(t) => {
        setText(t);
        if (!Number.isNaN(parse(t))) onChange(parse(t));
      }}
    />
  );
}
