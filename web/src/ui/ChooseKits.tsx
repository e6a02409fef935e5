import { useState } from "react";
import type { Schemas } from "../api/client";
import { Button, Field, Select } from "./form";

/** Kits chosen one after another from the whole catalogue; pressing a chosen one lets it go. */
export function ChooseKits({
  id,
  label,
  kits,
  chosen,
  onChange,
}: {
  id: string;
  label: string;
  kits: readonly Schemas["Kit"][];
  chosen: readonly string[];
  onChange: (keys: string[]) => void;
}) {
  const [next, setNext] = useState("");
  return (
    <div>
      <Field label={label} htmlFor={id}>
        <div className="flex gap-2">
          <Select
            id={id}
            value={next}
            onChange={setNext}
            empty="Choose a kit"
            options={kits.filter((k) => !chosen.includes(k.key)).map((k) => [k.key, `${k.name} (${k.what})`] as const)}
          />
          <Button
            className="whitespace-nowrap"
            disabled={!next}
            onClick={() => {
              onChange([...chosen, next]);
              setNext("");
            }}
          >
            Add it
          </Button>
        </div>
      </Field>
      {chosen.length > 0 && (
        <ul className="no-print mt-3 flex flex-wrap gap-2">
          {chosen.map((key) => (
            <li key={key}>
              <Button onClick={() => onChange(chosen.filter((x) => x !== key))}>
                {kits.find((k) => k.key === key)?.name ?? key} <span aria-hidden="true">✕</span>
                <span className="sr-only">(let go)</span>
              </Button>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
