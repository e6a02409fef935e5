import { useQuery } from "@tanstack/react-query";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { Button } from "../form";
import { EffectFields } from "./EffectFields";

type Effect = Schemas["Effect"];

/** What is done to which slot, and what the part there is known to be afterwards. */
export function EffectsEditor({
  effects,
  onChange,
  name,
  add,
}: {
  effects: readonly Effect[];
  onChange: (effects: Effect[]) => void;
  /** What a line is called to those who cannot see it. */
  name: string;
  /** What the button that adds one says. */
  add: string;
}) {
  const sheet = useQuery({ queryKey: keys.catalogue(), queryFn: () => unwrap(api.GET("/api/catalogue")) });
  const catalogue = sheet.data?.catalogue;
  const slots = (catalogue?.slots ?? []).filter((s) => !s.superseded);
  const set = (i: number, e: Effect) => onChange(effects.map((x, k) => (k === i ? e : x)));
  return (
    <>
      <ul className="space-y-3">
        {effects.map((e, i) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: an effect has no identity but its place
          <li key={i} className="border-l-4 border-line bg-leaf px-3 py-2">
            <EffectFields
              effect={e}
              name={`${name} ${i + 1}`}
              catalogue={catalogue}
              onChange={(x) => set(i, x)}
              onDrop={() => onChange(effects.filter((_, k) => k !== i))}
            />
          </li>
        ))}
      </ul>
      <Button
        className="mt-2"
        disabled={slots.length === 0}
        onClick={() => onChange([...effects, { slot: slots[0]?.key ?? "", model: "" }])}
      >
        {add}
      </Button>
    </>
  );
}
