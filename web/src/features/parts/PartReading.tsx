import { useState } from "react";
import { Field, Select } from "../../ui/form";
import { ReadingForm } from "../../ui/readings/ReadingForm";
import type { Part } from "./EditPart";

/** Takes a reading of a part that lies on the shelf. */
export function ReadIt({ part }: { part: Part }) {
  const [key, setKey] = useState("");
  const facts = [...part.unknown, ...part.facts];
  const fact = facts.find((f) => f.key === key);
  return (
    <div className="mt-3 space-y-3">
      <Field label="Measure it or read it off" htmlFor="read-it">
        <Select
          id="read-it"
          value={key}
          onChange={setKey}
          empty="Choose what"
          options={facts.map((f) => [f.key, f.short] as const)}
        />
      </Field>
      {fact && <ReadingForm key={fact.key} partId={part.id} fact={fact} />}
    </div>
  );
}
