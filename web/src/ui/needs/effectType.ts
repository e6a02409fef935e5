import type { Schemas } from "../../api/client";

export type Effect = Schemas["Effect"];

/** The model that stands for an empty slot. */
export const emptied = "none";

/** What can be done to a slot. */
export const effectTypes = {
  fits: "gets a new part",
  empties: "is left empty",
  sets: "keeps its part, set otherwise",
  moves: "gets the part of another slot",
} as const;
export type EffectType = keyof typeof effectTypes;

export function effectTypeOf(e: Effect): EffectType {
  if (e.from) return e.from === e.slot ? "sets" : "moves";
  return e.model === emptied ? "empties" : "fits";
}
