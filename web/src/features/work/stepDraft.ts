import type { Schemas } from "../../api/client";

type Typed = { data: Schemas["Data"]; note: string };

/** Where this device keeps what is typed into a step until the server has it. */
export const draftPlace = (order: number, step: string) => `wardifex-step:${order}:${step}`;

/** Keeps what is typed into a step, over the version that it began from; −1 is the newest. */
export function keepDraft(order: number, step: string, typed: Typed, version = -1) {
  localStorage.setItem(draftPlace(order, step), JSON.stringify({ ...typed, version }));
}

/** What this device still holds of a step that the server has not got. */
export function draftOfStep(order: number, step: Schemas["OrderStep"]): Typed & { version: number; dirty: boolean } {
  const kept = localStorage.getItem(draftPlace(order, step.key));
  if (kept && !step.doneAt && !step.skippedWhy) {
    try {
      const draft = JSON.parse(kept) as Typed & { version: number };
      return { ...draft, version: draft.version < 0 ? step.version : draft.version, dirty: true };
    } catch {
      localStorage.removeItem(draftPlace(order, step.key));
    }
  }
  return { data: step.data, note: step.note, version: step.version, dirty: false };
}
