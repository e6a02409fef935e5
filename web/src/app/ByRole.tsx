import type { ReactNode } from "react";
import { useSearchParams } from "react-router";
import { useMayWork } from "../ui/session";

/** One address, such as a label's, for two kinds of reader: members get what they can do there, others the record.
 * Members open the record by ?record=1. */
export function ByRole({ member, staff }: { member: ReactNode; staff: ReactNode }) {
  const mayWork = useMayWork();
  const [asked] = useSearchParams();
  return mayWork || asked.has("record") ? staff : member;
}
