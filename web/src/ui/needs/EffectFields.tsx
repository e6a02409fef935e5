import { useId } from "react";
import type { Schemas } from "../../api/client";
import { isProposed } from "../catalogueKeys";
import { Button, Select, TextInput } from "../form";
import { EffectTraits } from "./EffectTraits";
import { type Effect, type EffectType, effectTypeOf, effectTypes, emptied } from "./effectType";

/** One effect: the slot, what happens to it, and what the part there is known to be afterwards. */
export function EffectFields({
  effect,
  name,
  catalogue,
  onChange,
  onDrop,
}: {
  effect: Effect;
  name: string;
  catalogue?: Schemas["Catalogue"];
  onChange: (e: Effect) => void;
  onDrop: () => void;
}) {
  const models = useId();
  const slots = (catalogue?.slots ?? []).filter((s) => !s.superseded || s.key === effect.slot);
  const kind = slots.find((s) => s.key === effect.slot)?.kind;
  const traits = (catalogue?.kinds.find((k) => k.key === kind)?.traits ?? []).filter(
    (t) => t.name !== "model" && !t.superseded,
  );
  const deed = effectTypeOf(effect);
  const others = slots.filter((x) => x.kind === kind && x.key !== effect.slot);
  const doing = (d: EffectType, slot = effect.slot): Effect => {
    if (d === "sets") return { slot, model: "", from: slot, traits: effect.traits, adds: effect.adds };
    if (d === "moves") return { slot, model: "", from: others[0]?.key ?? "" };
    return { slot, model: d === "empties" ? emptied : "" };
  };
  return (
    <>
      <div className="flex flex-wrap items-center gap-2">
        <Select
          aria-label={`${name}: where`}
          className="max-w-56"
          value={effect.slot}
          onChange={(slot) =>
            onChange(deed === "sets" ? { slot, model: "", from: slot } : { slot, model: effect.model })
          }
          options={slots.map((s) => [s.key, s.label] as const)}
        />
        <Select
          aria-label={`${name}: how`}
          className="max-w-64"
          value={deed}
          onChange={(d) => onChange(doing(d as EffectType))}
          options={(Object.entries(effectTypes) as [EffectType, string][]).filter(
            ([d]) => d !== "moves" || others.length > 0,
          )}
        />
        {deed === "moves" && (
          <Select
            aria-label={`${name}: from where`}
            className="max-w-56"
            value={effect.from ?? ""}
            onChange={(from) => onChange({ ...effect, from })}
            options={others.map((x) => [x.key, x.label] as const)}
          />
        )}
        {deed === "fits" && (
          <>
            <TextInput
              aria-label={`${name}: what`}
              className="max-w-64"
              placeholder="model"
              list={models}
              value={effect.model}
              onChange={(model) => onChange({ ...effect, model })}
            />
            <datalist id={models}>
              {catalogue?.models
                .filter((m) => m.kind === kind && isProposed(m))
                .map((m) => (
                  <option key={m.name} value={m.name} />
                ))}
            </datalist>
          </>
        )}
        <Button danger onClick={onDrop}>
          Remove
        </Button>
      </div>
      {deed !== "empties" && <EffectTraits effect={effect} name={name} traits={traits} onChange={onChange} />}
    </>
  );
}
