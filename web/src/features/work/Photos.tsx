import type { Schemas } from "../../api/client";
import { PhotoStrip } from "../../ui/photos/PhotoStrip";

/** Photos of a step of a work order. */
export function Photos({ orderId, step, mayWork }: { orderId: number; step: Schemas["OrderStep"]; mayWork: boolean }) {
  return (
    <div className="mt-4">
      <PhotoStrip
        ids={step.photos}
        of="this step"
        postTo={mayWork ? `/api/work/${orderId}/steps/${step.key}/photos` : undefined}
      />
    </div>
  );
}
