import { useEffect } from "react";
import { preferences } from "../ui/preferences";

/** Single keys, ignored while something is being typed, a panel is open, or they are switched off. */
export function useKeys(keys: Record<string, () => void>) {
  useEffect(() => {
    function press(e: KeyboardEvent) {
      if (e.ctrlKey && e.key === "k") {
        e.preventDefault();
        keys["/"]?.();
        return;
      }
      const at = e.target as HTMLElement;
      if (
        e.ctrlKey ||
        e.metaKey ||
        e.altKey ||
        at.closest("input, textarea, select, [role=dialog], [role=menu], [contenteditable]")
      )
        return;
      const act = keys[e.key];
      if (act && (preferences().shortcuts === "on" || e.key === "?")) {
        e.preventDefault();
        act();
      }
    }
    addEventListener("keydown", press);
    return () => removeEventListener("keydown", press);
  }, [keys]);
}
