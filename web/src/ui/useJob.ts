import { useLayoutEffect } from "react";
import { beginJob } from "./preferences";

/** Marks a page on which a job runs: it is roomy, for a hand that is busy. */
export function useJob() {
  useLayoutEffect(beginJob, []);
}
