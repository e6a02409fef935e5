import { useQuery } from "@tanstack/react-query";
import { useLayoutEffect, useRef, useState } from "react";
import { api, unwrap } from "../api/client";
import { keys } from "../api/keys";
import { Choices, TextInput } from "./form";
import { useHeldBack } from "./useHeldBack";

const whole = /^\s*[+-]?\d+\s*$/;

type Props = { unit?: string; id?: string; className?: string; "aria-label"?: string };

/** A number that must be there. */
export function NumberInput(props: Props & { value: number; onChange: (n: number) => void }) {
  return <Typed {...props} required onChange={(n) => n !== undefined && props.onChange(n)} />;
}

/** A number that may be left out. */
export function OptionalNumber(props: Props & { value?: number; onChange: (n?: number) => void }) {
  return <Typed {...props} />;
}

/** A number as it is typed; where it has two meanings both are offered, and neither is taken before one is chosen. */
function Typed({
  value,
  onChange,
  unit = "",
  ...rest
}: Props & { value?: number; onChange: (n?: number) => void; required?: boolean }) {
  const [text, setText] = useState(String(value ?? ""));
  const told = useRef(value);
  const before = useRef(value);
  if (value !== before.current) {
    before.current = value;
    if (value !== told.current) {
      told.current = value;
      setText(String(value ?? "")); // it was set from outside
    }
  }
  // What is there as it was set is that number; only what is typed is read.
  const asSet = value !== undefined && text === String(value);
  const simple = asSet || whole.test(text) || text.trim() === "";
  const read = useQuery({
    queryKey: keys.number(text, unit),
    queryFn: () => unwrap(api.POST("/api/numbers", { body: { text, unit } })),
    enabled: !simple,
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  });
  const number = simple ? (text.trim() === "" ? undefined : Number(text)) : read.data?.number;
  const input = useRef<HTMLInputElement>(null);
  const fault = simple ? "" : (read.data?.fault ?? "");
  // In the commit itself: told a moment later, it and what is typed meanwhile would each overwrite the other.
  // biome-ignore lint/correctness/useExhaustiveDependencies: tells a number once, when it is read
  useLayoutEffect(() => {
    if (number === told.current || fault || (!simple && !read.data) || (number === undefined && rest.required)) return;
    told.current = number;
    onChange(number);
  }, [number, fault]);
  useHeldBack(input, text, simple ? undefined : read, fault);
  return (
    <>
      <TextInput
        inputMode="decimal"
        {...rest}
        ref={input}
        aria-invalid={!!read.data?.fault && !simple}
        value={text}
        onChange={setText}
      />
      {!simple && read.data?.fault && (
        <Choices text={read.data.fault} meanings={read.data.meanings} onChoose={setText} />
      )}
    </>
  );
}
