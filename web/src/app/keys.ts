import { useEffect } from "react";

/** Single keys, ignored while something is being typed or a panel is open. */
export function useKeys(keys: Record<string, () => void>) {
  useEffect(() => {
    function press(e: KeyboardEvent) {
      if (e.ctrlKey && e.key === "k") {
        e.preventDefault();
        keys["/"]?.();
        return;
      }
      const at = e.target as HTMLElement;
      if (e.ctrlKey || e.metaKey || e.altKey || at.closest("input, textarea, select, [role=dialog], [contenteditable]"))
        return;
      const act = keys[e.key];
      if (act) {
        e.preventDefault();
        act();
      }
    }
    addEventListener("keydown", press);
    return () => removeEventListener("keydown", press);
  }, [keys]);
}

/** Moves the focus along elements marked data-row inside the event's container. */
export function alongRows(e: React.KeyboardEvent<HTMLElement>) {
  if (e.key !== "ArrowDown" && e.key !== "ArrowUp") return;
  const rows = [...e.currentTarget.querySelectorAll<HTMLElement>("[data-row]")];
  const at = rows.indexOf(document.activeElement as HTMLElement);
  const next = rows[at + (e.key === "ArrowDown" ? 1 : -1)];
  if (next) {
    e.preventDefault();
    next.focus();
  }
}
