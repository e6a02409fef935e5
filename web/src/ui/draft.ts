import { useState } from "react";
import { differences } from "./differences";

/** State kept over a reload of the page, until it is cleared. */
export function useDraft<T>(key: string, initial: T): [T, (value: T) => void, () => void] {
  const place = `wardifex-draft:${key}`;
  const [value, setValue] = useState<T>(() => {
    try {
      const kept = sessionStorage.getItem(place);
      return kept ? { ...initial, ...(JSON.parse(kept) as T) } : initial;
    } catch {
      return initial;
    }
  });
  function set(v: T) {
    setValue(v);
    try {
      sessionStorage.setItem(place, JSON.stringify(v));
    } catch {
      // Too large to keep over a reload; it stays while the page is open.
    }
  }
  function clear() {
    sessionStorage.removeItem(place);
    setValue(initial);
  }
  return [value, set, clear];
}

/** A draft of something that others may change meanwhile: it knows the version that it began from. */
export function useEdit<T>(key: string, version: number, initial: T) {
  const [draft, setDraft, clear] = useDraft(key, { version, value: initial });
  return {
    value: draft.value,
    set: (value: T) => setDraft({ ...draft, value }),
    clear,
    version: draft.version,
    changed: draft.version !== version,
    differs: () => differences(initial as object, draft.value as object),
    over: () => setDraft({ ...draft, version }),
  };
}
