import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { State } from "../../ui/badges";
import { showDay } from "../../ui/dates";
import { Button } from "../../ui/form";
import { Planned } from "../../ui/Planned";
import { Contradictions } from "../../ui/readings/Contradictions";
import { useMayWork } from "../../ui/session";
import { PartNeeds } from "./PartNeeds";

type Sheet = Schemas["Sheet"];

/** What has to be known before anybody touches the machine: safety, locks, what contradicts itself. */
export function SheetBanners({ sheet, onTest }: { sheet: Sheet; onTest?: () => void }) {
  const mayWork = useMayWork();
  return (
    <div className="mb-4 space-y-2">
      {sheet.retired && (
        <p className="border-l-4 border-dim bg-leaf px-4 py-2 compact:py-1">
          <State tone="dim">Retired: {sheet.retired}</State>
        </p>
      )}
      {sheet.use.use !== "in use" && (
        <p
          className={`border-l-4 px-4 py-2 compact:py-1 ${sheet.use.use === "out of use" ? "border-bad bg-bad-wash" : "border-look bg-look-wash"}`}
        >
          <State tone={sheet.use.use === "out of use" ? "bad" : "look"}>
            {sheet.use.use === "out of use" ? "Out of use" : "Attended only"}
          </State>
          : {sheet.use.why}. {sheet.use.by}, {showDay(sheet.use.at)}.
        </p>
      )}
      {sheet.notPlaced.length > 0 && (
        <p className="border-l-4 border-look bg-look-wash px-4 py-2 compact:py-1">
          <State tone="look">Not placed</State>: {sheet.notPlaced.join(", ")}. Nobody has said what{" "}
          {sheet.notPlaced.length === 1 ? "it serves, so rules take it" : "they serve, so rules take them"} for any
          place.{" "}
          <Link
            className="inline-flex min-h-10 items-center font-semibold underline underline-offset-4"
            to={`/machine/${sheet.id}/positions`}
          >
            Place {sheet.notPlaced.length === 1 ? "it" : "them"}
          </Link>
        </p>
      )}
      <Contradictions list={sheet.against} title="On record here, and cannot be right" />
      <PartNeeds needs={sheet.needs} />
      {sheet.protection.proven ? (
        <p className="border-l-4 border-good bg-good-wash px-4 py-2 compact:py-1">
          <State tone="good">Thermal-runaway protection proven</State> <span>{sheet.protection.why}</span>
        </p>
      ) : (
        <div className="flex flex-wrap items-center justify-between gap-3 border-l-4 border-bad bg-bad-wash px-4 py-3 compact:py-1">
          <p>
            <State tone="bad">Thermal-runaway protection not proven</State>: {sheet.protection.why}. Not to be left
            running unattended.
          </p>
          {onTest && (
            <Button danger onClick={onTest}>
              Record a test
            </Button>
          )}
        </div>
      )}
      {sheet.openOrder && (
        <p className="border-l-4 border-look bg-look-wash px-4 py-2 compact:py-1">
          <State tone="look">Locked out</State>: {sheet.openOrder.kit}, opened by {sheet.openOrder.openedBy},{" "}
          {showDay(sheet.openOrder.openedAt)}.{" "}
          <Link
            className="inline-flex min-h-10 items-center font-semibold underline underline-offset-4"
            to={`/work/${sheet.openOrder.id}`}
          >
            To work order {sheet.openOrder.id}
          </Link>
        </p>
      )}
      <Planned planned={sheet.planned} locked={sheet.openOrder?.id} mayWork={mayWork} />
    </div>
  );
}
