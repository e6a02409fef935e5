import { api, type Schemas, unwrap } from "../../api/client";
import { Button, Fault } from "../../ui/form";
import { DayField, SelectField, TextField } from "../../ui/forms/fields";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { Panel } from "../../ui/Panel";
import { PhotoStrip } from "../../ui/photos/PhotoStrip";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { Differs } from "./Differs";

type To = "open" | "sent back" | "refunded" | "given up";

const states: readonly [To, string][] = [
  ["open", "open: it still lies here"],
  ["sent back", "sent back: the supplier's answer is waited for"],
  ["refunded", "refunded: closes the claim"],
  ["given up", "given up: closes the claim"],
];

/** Says how far a claim has come. A replacement is received, not said. */
export function ClaimPanel({ arrival: a, onClose }: { arrival: Schemas["Arrival"]; onClose: () => void }) {
  const form = useKeptForm(`claim-${a.id}-${a.version}`, {
    claim: a.claim as To,
    note: a.claimNote ?? "",
    returnBy: a.returnBy ?? "",
  });
  const { write, busy, fault } = useWrite();
  return (
    <Panel open onOpenChange={onClose} title={`Claim: ${a.what}`}>
      <p className="mb-3">
        Of {a.supplier}. <Differs arrival={a} />
      </p>
      <PhotoStrip ids={a.photos} of="this thing" postTo={`/api/arrivals/${a.id}/photos`} />
      <form
        className="mt-4 space-y-4"
        onSubmit={form.handleSubmit((said) =>
          write(
            () =>
              unwrap(
                api.POST("/api/arrivals/{id}/claim", {
                  params: { path: { id: a.id } },
                  body: { ...said, version: a.version },
                }),
              ),
            () => {
              form.forget();
              toast(`The claim is ${said.claim}`);
              onClose();
            },
          ),
        )}
      >
        <SelectField control={form.control} name="claim" label="How far it is" options={states} />
        <TextField
          control={form.control}
          name="note"
          label="Note"
          hint="The supplier's number of the claim, the parcel's number"
          maxLength={120}
        />
        <DayField control={form.control} name="returnBy" label="Send back by" />
        <p className="text-dim">A replacement that came is received on its order: that closes the claim.</p>
        <Fault text={fault} />
        <Button type="submit" main disabled={busy}>
          Save
        </Button>
      </form>
    </Panel>
  );
}
