import { useCallback, useLayoutEffect, useRef } from "react";

/** A function that stays the same from one rendering to the next and does what the newest one does. */
export function useSteady<A extends unknown[]>(does: (...args: A) => void): (...args: A) => void {
  const newest = useRef(does);
  useLayoutEffect(() => {
    newest.current = does;
  });
  return useCallback((...args: A) => newest.current(...args), []);
}
