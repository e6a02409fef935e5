import { type ComponentProps, useState } from "react";
import { TextInput } from "../form";

/** Text sought, which the address keeps: the address follows a moment after what is typed. */
export function SearchInput({ value, onChange, ...rest }: ComponentProps<typeof TextInput>) {
  const [typed, setTyped] = useState<string>();
  return (
    <TextInput
      {...rest}
      className="max-w-64"
      value={typed ?? value}
      onChange={(text) => {
        setTyped(text);
        onChange(text);
      }}
      onBlur={() => setTyped(undefined)}
    />
  );
}
