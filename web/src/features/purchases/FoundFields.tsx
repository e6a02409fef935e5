import { useState } from "react";
import { Controller, type UseFormReturn } from "react-hook-form";
import type { Schemas } from "../../api/client";
import { Button } from "../../ui/form";
import { FoundRow } from "./FoundRow";
import { notLooked, type ReceiveDraft } from "./receiveDraft";

/** What to look at on a part that came: what its model states first, the rest on demand. */
export function FoundFields({
  form,
  checks,
}: {
  form: UseFormReturn<ReceiveDraft>;
  checks: readonly Schemas["DeliveryCheck"][];
}) {
  const [all, setAll] = useState(false);
  const stated = checks.filter((c) => c.advertised);
  const shown = all ? checks : stated;
  return (
    <fieldset>
      <legend className="font-bold">Found against advertised</legend>
      <p className="text-dim">Look at what you can: a name on the box proves nothing of what is in it.</p>
      {shown.map((c) => (
        <Controller
          key={c.trait}
          control={form.control}
          name={`found.${c.trait}`}
          render={({ field }) => <FoundRow check={c} found={field.value ?? notLooked} onChange={field.onChange} />}
        />
      ))}
      {!all && stated.length < checks.length && (
        <Button className="mt-2" onClick={() => setAll(true)}>
          More to look at: {checks.length - stated.length}
        </Button>
      )}
    </fieldset>
  );
}
