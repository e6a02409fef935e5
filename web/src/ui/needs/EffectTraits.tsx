import type { Schemas } from "../../api/client";
import { Button, Select, TextInput } from "../form";
import { type Effect, effectTypeOf } from "./effectType";

type Trait = Schemas["TraitDef"];

/** What the part of an effect is known to be, trait by trait, and which numbers are changed by how much. */
export function EffectTraits({
  effect,
  name,
  traits,
  onChange,
}: {
  effect: Effect;
  name: string;
  traits: readonly Trait[];
  onChange: (e: Effect) => void;
}) {
  const said = Object.entries(effect.traits ?? {});
  const withTraits = (list: [string, string][]) => onChange({ ...effect, traits: Object.fromEntries(list) });
  const added = Object.entries(effect.adds ?? {});
  const withAdds = (list: [string, string][]) => onChange({ ...effect, adds: Object.fromEntries(list) });
  const left = traits.filter((t) => !said.some(([n]) => n === t.name) && !added.some(([n]) => n === t.name));
  const numbers = left.filter((t) => t.kind === "number");
  const sets = effectTypeOf(effect) === "sets";
  return (
    <ul className="mt-2 space-y-2 pl-4">
      {said.map(([trait, value], i) => (
        <li key={trait} className="flex flex-wrap items-center gap-2">
          <Select
            aria-label={`${name}: trait ${i + 1}`}
            className="max-w-64"
            value={trait}
            onChange={(n) => withTraits(said.map((x, k) => (k === i ? [n, ""] : x)))}
            options={traits.filter((t) => t.name === trait || left.includes(t)).map((t) => [t.name, t.label] as const)}
          />
          <TraitValue
            label={`${name}: value ${i + 1}`}
            trait={traits.find((t) => t.name === trait)}
            value={value}
            onChange={(v) => withTraits(said.map((x, k) => (k === i ? [trait, v] : x)))}
          />
          <Button
            aria-label={`${name}: remove trait ${i + 1}`}
            onClick={() => withTraits(said.filter((_, k) => k !== i))}
          >
            ✕
          </Button>
        </li>
      ))}
      {added.map(([trait, value], i) => (
        <li key={trait} className="flex flex-wrap items-center gap-2">
          <span>{traits.find((t) => t.name === trait)?.label ?? trait} changed by</span>
          <TextInput
            aria-label={`${name}: changed by ${i + 1}`}
            className="max-w-32"
            placeholder="+230"
            value={value}
            onChange={(v) => withAdds(added.map((x, k) => (k === i ? [trait, v] : x)))}
          />
          {traits.find((t) => t.name === trait)?.unit}
          <Button
            aria-label={`${name}: remove change ${i + 1}`}
            onClick={() => withAdds(added.filter((_, k) => k !== i))}
          >
            ✕
          </Button>
        </li>
      ))}
      {sets && numbers[0] && (
        <li>
          <Select
            aria-label={`${name}: change a number by`}
            className="max-w-64"
            value=""
            empty="Change a number by …"
            onChange={(n) => n && withAdds([...added, [n, ""]])}
            options={numbers.map((t) => [t.name, t.label] as const)}
          />
        </li>
      )}
      {left[0] && (
        <li>
          <Button onClick={() => left[0] && withTraits([...said, [left[0].name, ""]])}>
            {sets ? "Say what is set" : "Say what it is"}
          </Button>
        </li>
      )}
    </ul>
  );
}

function TraitValue({
  label,
  trait,
  value,
  onChange,
}: {
  label: string;
  trait?: Trait;
  value: string;
  onChange: (v: string) => void;
}) {
  const choices = trait?.kind === "yes/no" ? ["yes", "no"] : (trait?.choices ?? []);
  if (choices.length > 0)
    return (
      <Select
        aria-label={label}
        className="max-w-60"
        value={value}
        onChange={onChange}
        empty="Choose"
        options={choices}
      />
    );
  return (
    <span className="flex items-center gap-2">
      <TextInput
        aria-label={label}
        className="max-w-40"
        inputMode={trait?.kind === "number" ? "decimal" : "text"}
        value={value}
        onChange={onChange}
      />
      {trait?.unit}
    </span>
  );
}
