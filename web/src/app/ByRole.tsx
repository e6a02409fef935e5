import type { ReactNode } from "react";
import { useSearchParams } from "react-router";
import { useMayWork } from "../ui/session";

/** One address, such as a label's, for two kinds of reader: members get what they can do there, others the record.
 * An address that asks for something of the record, such as ?fact=, opens it for members too. */
export function ByRole({ member, staff }: { member: ReactNode; staff: ReactNode }) {
  const mayWork = useMayWork();
  const [asked] = useSearchParams();
  const ofTheRecord = [...asked.keys()].some((key) => key !== "report");
  return mayWork || ofTheRecord ? staff : member;
}
