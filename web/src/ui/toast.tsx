import { useEffect, useState } from "react";

/** Takes back what was done; the answer is false where it could not be. */
type Undo = () => Promise<boolean>;

type Toast = { id: number; text: string; undo?: Undo };

let next = 1;
let show: ((t: Toast) => void) | undefined;

/** Says what was done, with a way to undo it where there is one. */
export function toast(text: string, undo?: Undo) {
  show?.({ id: next++, text, undo });
}

export function Toasts() {
  const [toast, setToast] = useState<Toast>();
  useEffect(() => {
    show = setToast;
    return () => {
      show = undefined;
    };
  }, []);
  useEffect(() => {
    if (!toast) return;
    const timer = setTimeout(() => setToast(undefined), toast.undo ? 12_000 : 6_000);
    return () => clearTimeout(timer);
  }, [toast]);
  return (
    <div aria-live="polite" className="no-print fixed right-4 bottom-4 z-50 max-sm:bottom-20">
      {toast && (
        <div className="flex items-center gap-4 border-2 border-accent bg-leaf px-4 py-2 font-semibold shadow-lg">
          {toast.text}
          {toast.undo && (
            <button
              type="button"
              className="min-h-11 underline underline-offset-4"
              onClick={async () => {
                setToast(undefined);
                // Where it was done may be off the screen by now, and what went wrong with it.
                if (!(await toast.undo?.())) show?.({ id: next++, text: "Not undone. Open it again to see why." });
              }}
            >
              Undo
            </button>
          )}
        </div>
      )}
    </div>
  );
}
