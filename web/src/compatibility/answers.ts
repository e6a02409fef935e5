import type { Schemas } from "../api/client";

export type Answer = Schemas["VerdictRow"]["answer"];
export type Lean = Exclude<NonNullable<Schemas["VerdictRow"]["lean"]>, "">;

/** The answers a kit gets, in the order in which they are shown. */
export const answers: readonly Answer[] = ["fits", "fits if", "look first", "does not fit"];

/** Which way the claims lean, in the order in which it is shown. */
export const leans: readonly Lean[] = ["fits", "fits if", "no lean", "does not fit"];

export function countOf(c: Schemas["Counts"], a: Answer) {
  return { fits: c.fits, "fits if": c.fitsIf, "look first": c.lookFirst, "does not fit": c.doesNotFit }[a];
}

export function leanCountOf(c: Schemas["Counts"], l: Lean) {
  return {
    fits: c.leansFits,
    "fits if": c.leansFitsIf,
    "no lean": c.noLean,
    "does not fit": c.leansDoesNotFit,
  }[l];
}
