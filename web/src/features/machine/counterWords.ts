import type { Schemas } from "../../api/client";

/** What a counter is called. */
export const counterWords: Record<Schemas["MeterSheet"]["counter"], string> = {
  hours: "Print hours",
  filament: "Filament",
  prints: "Prints",
};
