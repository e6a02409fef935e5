import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { showDay } from "../../ui/dates";
import { Button, Fault } from "../../ui/form";
import { DayField, SelectField, TextField } from "../../ui/forms/fields";
import { useKeptForm } from "../../ui/forms/useKeptForm";
import { Panel } from "../../ui/Panel";
import { PhotoField } from "../../ui/photos/PhotoField";
import { postFile } from "../../ui/post";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";
import { FoundFields } from "./FoundFields";
import type { Expected } from "./PurchasePage";
import { type ReceiveDraft, receivedOf, startOf } from "./receiveDraft";

const outcomes = [
  ["", "nothing besides what was found"],
  ["wrong", "wrong: something else, or not as it should be"],
  ["damaged", "damaged"],
  ["missing", "missing: on the delivery note, not in the parcel"],
] as const;

/** Takes in one thing of an order: photo, what was found against what is advertised, label, shelf. */
export function ReceivePanel({
  order,
  expected: { line, kept },
  onClose,
}: {
  order: Schemas["PurchaseSheet"];
  expected: Expected;
  onClose: () => void;
}) {
  const part = line.kept[kept];
  const checks = order.checks.filter((c) => c.kind === part?.kind && c.model === part.model);
  const form = useKeptForm<ReceiveDraft>(`receive-${line.id}-${kept}`, startOf(order, line));
  const [photo, setPhoto] = useState<File>();
  const { write, busy, fault } = useWrite();
  const { control } = form;
  const said = form.watch();
  const differs = said.outcome !== "" || checks.some((c) => said.found[c.trait]?.how === "differs");
  const claimed = order.arrivals.filter((a) => a.lineId === line.id && a.kept === kept && a.waits);
  return (
    <Panel open onOpenChange={onClose} title={`Receive: ${part?.model ?? line.what}`}>
      <form
        className="space-y-4"
        onSubmit={form.handleSubmit((draft) =>
          write(
            async () => {
              const arrived = await unwrap(
                api.POST("/api/purchases/{id}/arrivals", {
                  params: { path: { id: order.id } },
                  body: { ...receivedOf(draft, checks), lineId: line.id, kept },
                }),
              );
              if (photo) await postFile(`/api/arrivals/${arrived.id}/photos`, photo, photo.type || "image/jpeg");
              return arrived;
            },
            (arrived) => {
              form.forget();
              toast(
                arrived.outcome === "as advertised"
                  ? `${part?.model ?? line.what} is in`
                  : `${part?.model ?? line.what}: ${arrived.outcome}. Its claim is open; it is no stock`,
              );
              onClose();
            },
          ),
        )}
      >
        <PhotoField label="Photo of it and its marking" onPhoto={setPhoto} photo={photo} />
        {part && <FoundFields form={form} checks={checks} />}
        <SelectField control={control} name="outcome" label="Anything wrong with it?" options={outcomes} />
        {differs && (
          <div className="grid gap-4 border-l-4 border-bad pl-4 sm:grid-cols-2">
            <TextField
              control={control}
              name="note"
              label="What is wrong"
              maxLength={1000}
              required={said.outcome !== ""}
            />
            <DayField control={control} name="returnBy" label="Can be sent back until" />
            <p className="text-dim sm:col-span-2">
              It does not go on the shelf's record: a claim is open until it is settled.
            </p>
          </div>
        )}
        {claimed.length > 0 && (
          <SelectField
            control={control}
            name="replaces"
            label="Is it a replacement?"
            empty="No"
            options={claimed.map(
              (a) => [String(a.id), `of the one that came ${showDay(a.cameOn)}, ${a.claim}`] as const,
            )}
          />
        )}
        <div className="grid gap-4 sm:grid-cols-2">
          <TextField control={control} name="lot" label="Lot" hint="The maker's, or this delivery's" maxLength={60} />
          <TextField control={control} name="slip" label="Delivery note" maxLength={120} />
          {part && !differs && (
            <>
              <TextField control={control} name="tag" label="The shop's label on it" maxLength={60} />
              <TextField control={control} name="serial" label="Serial number" maxLength={120} />
              <TextField control={control} name="shelf" label="Shelf" maxLength={60} />
              <SelectField
                control={control}
                name="forMachine"
                label="For which machine"
                empty="None: stock"
                options={line.machines.map((id) => [String(id), order.names[id] ?? String(id)] as const)}
              />
            </>
          )}
          <DayField control={control} name="cameOn" label="Came on" hint="Today when left empty" />
        </div>
        <Fault text={fault} />
        <Button type="submit" main disabled={busy}>
          {differs ? "Open the claim" : "Take it in"}
        </Button>
      </form>
    </Panel>
  );
}
