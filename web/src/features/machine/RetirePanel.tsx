import { useState } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { Button, Fault, Field, TextInput } from "../../ui/form";
import { Panel } from "../../ui/Panel";
import { toast } from "../../ui/toast";
import { useWrite } from "../../ui/write";

export function RetirePanel({ sheet, onClose }: { sheet: Schemas["Sheet"]; onClose: () => void }) {
  const [why, setWhy] = useState("");
  const { write, busy, fault } = useWrite();
  const back = Boolean(sheet.retired);
  return (
    <Panel open onOpenChange={onClose} title={back ? `Bring ${sheet.name} back` : `Retire ${sheet.name}`}>
      <form
        className="space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          write(
            () =>
              unwrap(
                api.POST("/api/machines/{id}/retire", {
                  params: { path: { id: sheet.id } },
                  body: { why: back ? "" : why },
                }),
              ),
            () => {
              toast(back ? `${sheet.name} is back in the fleet` : `${sheet.name} is retired; its record stays`);
              onClose();
            },
          );
        }}
      >
        {back ? (
          <p>It was retired: {sheet.retired}.</p>
        ) : (
          <Field
            label="Why"
            htmlFor="retire-why"
            hint="It leaves the fleet and the due list. Its record stays, and it can be brought back."
          >
            <TextInput id="retire-why" value={why} onChange={setWhy} required autoFocus />
          </Field>
        )}
        <Fault text={fault} />
        <Button type="submit" danger={!back} main={back} disabled={busy}>
          {back ? "Bring it back" : "Retire it"}
        </Button>
      </form>
    </Panel>
  );
}
