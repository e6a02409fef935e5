import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { GradeMark } from "../../ui/badges";
import { Panel } from "../../ui/Panel";
import { ReadingForm } from "../../ui/readings/ReadingForm";
import { useMayWork } from "../../ui/session";
import { DisagreementView } from "./DisagreementView";
import { ExchangeForm } from "./ExchangeForm";
import { ReadingRow } from "./ReadingRow";
import { SettleForm } from "./SettleForm";
import { SwapForm } from "./SwapForm";

/** All readings of one trait: take another, settle a conflict, take one back,
 *  or, for a model, record that the part was changed. */
export function FactPanel({
  machineId,
  slot,
  fact,
  onClose,
}: {
  machineId: number;
  slot: Schemas["SlotSheet"];
  fact: Schemas["FactSheet"];
  onClose: () => void;
}) {
  const mayWork = useMayWork();
  return (
    <Panel open onOpenChange={onClose} title={fact.label}>
      <p className="mb-4 text-3xl font-bold">
        {fact.value}{" "}
        <span className="text-lg font-normal">{fact.grade !== "unknown" && <GradeMark grade={fact.grade} />}</span>
      </p>
      {fact.carried && <p className="mb-4 text-dim">{fact.carried}</p>}
      {fact.disagreement && <DisagreementView d={fact.disagreement} />}
      {fact.conflict && mayWork && <SettleForm machineId={machineId} fact={fact} />}
      {mayWork && (
        <section className="mb-6">
          <h3 className="mb-2 border-b border-line pb-1 text-xl font-bold">Take a reading</h3>
          <ReadingForm machineId={machineId} fact={fact} />
        </section>
      )}
      <section className="mb-6">
        <h3 className="mb-2 border-b border-line pb-1 text-xl font-bold">Readings</h3>
        {fact.readings.length === 0 && <p className="text-dim">Nobody has recorded one yet.</p>}
        <ul>
          {fact.readings.map((r) => (
            <ReadingRow key={r.id} reading={r} mayWork={mayWork} />
          ))}
        </ul>
      </section>
      {slot.part ? (
        <p className="mb-6">
          <Link className="inline-flex min-h-10 items-center underline underline-offset-4" to={`/part/${slot.part}`}>
            This part: tag, supplier, where it has been
          </Link>
        </p>
      ) : null}
      {slot.runs && (
        <p className="mb-6">
          <Link
            className="inline-flex min-h-10 items-center font-semibold underline underline-offset-4"
            to={`/machine/${machineId}/builds`}
          >
            Builds of this machine: what its boards run, and record another
          </Link>
        </p>
      )}
      {mayWork && !slot.runs && fact.key.endsWith(".model") && (
        <>
          <SwapForm machineId={machineId} slot={slot} model={fact.value} />
          <ExchangeForm machineId={machineId} slot={slot} onDone={onClose} />
        </>
      )}
    </Panel>
  );
}
