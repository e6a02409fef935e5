import { type RefObject, useEffect, useRef } from "react";

type Reading = { data: unknown; isError: boolean; refetch: () => unknown };

/**
 * Holds a form back while the server reads what is typed in a field, and where the field has a fault. A form that is
 * sent meanwhile goes as soon as the field is read.
 */
export function useHeldBack(
  input: RefObject<HTMLInputElement | null>,
  text: string,
  /** What the server makes of the text; undefined where it need not be asked. */
  reading: Reading | undefined,
  fault: string,
) {
  const waits = !!reading && !reading.data;
  const failed = waits && reading.isError;
  const asked = useRef<string>(undefined); // the text with which the form was to be sent
  const again = useRef<() => unknown>(undefined);
  again.current = reading?.refetch;
  useEffect(() => {
    const field = input.current;
    if (!field) return;
    field.setCustomValidity(
      failed ? "The server did not answer, so this is not read yet. Try again." : waits ? "This is being read." : fault,
    );
    if (!waits) {
      if (asked.current === text && !fault) field.form?.requestSubmit();
      asked.current = undefined;
      return;
    }
    if (failed) asked.current = undefined; // nothing is sent minutes later, when the server is there again
    const held = (e: Event) => {
      if (failed) return again.current?.();
      e.preventDefault(); // a matter of a moment needs no message
      asked.current = text;
    };
    field.addEventListener("invalid", held);
    return () => field.removeEventListener("invalid", held);
  }, [input, text, waits, failed, fault]);
}
