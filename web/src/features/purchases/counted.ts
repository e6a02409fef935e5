import type { Schemas } from "../../api/client";

type Progress = Schemas["LineProgress"];

/** How many of a line's or an order's things came, are to come and are claimed. */
export function counted(of: readonly Progress[]) {
  return of.reduce(
    (sum, p) => ({ come: sum.come + p.good, toCome: sum.toCome + p.toCome, claimed: sum.claimed + p.claimed }),
    { come: 0, toCome: 0, claimed: 0 },
  );
}
