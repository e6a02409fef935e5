import { useState } from "react";
import { useSearchParams } from "react-router";

/** What was set last by any list of the page, from which address: two that set theirs in one moment both count. */
let last: { from: string; text: string } | undefined;

/** The question in the address, as it was last set here: the address itself follows a moment later. */
export function useAddress(): [URLSearchParams, (change: (of: URLSearchParams) => void) => void] {
  const [address, setAddress] = useSearchParams();
  const [held, setHeld] = useState<{ before: readonly string[]; text: string }>();
  const there = address.toString();
  // Arrived: from now on the address alone counts, so that a link or a step back is followed.
  if (held?.text === there) setHeld(undefined);
  if (last?.text === there) last = undefined;
  // What was set here is on its way as long as the address is one of those before it.
  const onItsWay = held?.before.includes(there) ? held : undefined;
  const now = new URLSearchParams(onItsWay?.text ?? there);
  return [
    now,
    (change) => {
      const next = new URLSearchParams(last?.from === there ? last.text : now);
      const from = next.toString();
      change(next);
      const text = next.toString();
      if (text === from) return;
      last = { from: there, text };
      const before = [...(onItsWay?.before ?? [there]), now.toString()].filter((old) => old !== text);
      setHeld({ before, text });
      setAddress(next, { replace: true });
    },
  ];
}
