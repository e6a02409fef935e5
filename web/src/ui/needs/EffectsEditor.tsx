import { useQuery } from "@tanstack/react-query";
import { useId } from "react";
import { api, type Schemas, unwrap } from "../../api/client";
import { keys } from "../../api/keys";
import { isProposed } from "../catalogueKeys";
import { Button, Select, TextInput } from "../form";

type Effect = Schemas["Effect"];
type Trait = Schemas["TraitDef"];

const emptied = "none";

/** What can be done to a slot. */
const effectTypes = {
  fits: "gets a new part",
  empties: "is left empty",
  sets: "keeps its part, set otherwise",
  moves: "gets the part of another slot",
} as const;
type EffectType = keyof typeof effectTypes;

function effectTypeOf(e: Effect): EffectType {
  if (e.from) return e.from === e.slot ? "sets" : "moves";
  return e.model === emptied ? "empties" : "fits";
}

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

function EffectFields({
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
  const said = Object.entries(effect.traits ?? {});
  const withTraits = (list: [string, string][]) => onChange({ ...effect, traits: Object.fromEntries(list) });
  const added = Object.entries(effect.adds ?? {});
  const withAdds = (list: [string, string][]) => onChange({ ...effect, adds: Object.fromEntries(list) });
  const left = traits.filter((t) => !said.some(([n]) => n === t.name) && !added.some(([n]) => n === t.name));
  const numbers = left.filter((t) => t.kind === "number");
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
      {deed !== "empties" && (
        <ul className="mt-2 space-y-2 pl-4">
          {said.map(([trait, value], i) => (
            <li key={trait} className="flex flex-wrap items-center gap-2">
              <Select
                aria-label={`${name}: trait ${i + 1}`}
                className="max-w-64"
                value={trait}
                onChange={(n) => withTraits(said.map((x, k) => (k === i ? [n, ""] : x)))}
                options={traits
                  .filter((t) => t.name === trait || left.includes(t))
                  .map((t) => [t.name, t.label] as const)}
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
          {deed === "sets" && numbers[0] && (
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
                {deed === "sets" ? "Say what is set" : "Say what it is"}
              </Button>
            </li>
          )}
        </ul>
      )}
    </>
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
